"""What is said wherever work can hurt someone: on the build card, and on the page that is taken away."""

CAUTIONS: tuple[str, ...] = (
    "Props off for every powered bench step.",
    "Pack unplugged before any soldering; never work on a live pack.",
    "Before the first power: meter from plus to minus; a beep that stays is a short. First power through a current limiter.",
    "Antenna on before a transmitter gets power. Transmit power, bands and flying are subject to local law and licence.",
    "Hot iron and fumes: ventilation, eye protection. Insulate every exposed joint.",
    "Charge and store packs by the maker's instructions; a puffed or punctured pack is not used.",
    "These numbers are estimates from the data given: measure before you trust. Work on a customer's or certified aircraft belongs to licensed practice.",
)

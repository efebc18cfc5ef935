"""A meter and a supply that measure a plan file, faults and all, over TCP: for trying things out without a craft."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from yardmeter import demo
from yardmeter.core.errors import YardError
from yardmeter.core.formats.plan_json import read_plan
from yardmeter.instruments.listening import HOST, Listening
from yardmeter.instruments.specimen import TwinBench
from yardmeter.instruments.standin import MeterStandIn, SupplyStandIn

PORT = 5025
"""The port instruments usually listen on for plain lines."""


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="yard meter", description=__doc__)
    parser.add_argument("plan", type=Path, nargs="?", help="a plan in the open JSON format; a demo build when left out")
    parser.add_argument(
        "--fault", action="append", default=[], help="a fault that is in the build; `yard faults` lists them"
    )
    parser.add_argument("--port", type=int, default=PORT, help="the meter's port; the supply has the next one")
    parser.add_argument("--seed", type=int, default=0, help="another specimen of the same build")
    options = parser.parse_args(arguments)
    try:
        plan = read_plan(options.plan.read_bytes()) if options.plan else demo.plan("marshlight-as-soldered")
        bench = TwinBench(plan, tuple(options.fault), options.seed)
        bench.warm()
        meter = Listening(MeterStandIn(bench), options.port)
        supply = Listening(SupplyStandIn(bench), options.port + 1 if options.port else 0).start()
    except YardError as error:
        print(f"{options.plan or 'demo'}: {error}", file=sys.stderr)
        return 1
    except (OSError, OverflowError) as error:
        print(f"{options.plan or options.port}: {error}", file=sys.stderr)
        return 1
    print(f"meter at {HOST}:{meter.port}, supply at {HOST}:{supply.port}; Ctrl+C ends them", flush=True)
    try:
        meter.serve()
    except KeyboardInterrupt:
        print("Stopped.", file=sys.stderr)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())

/** The component library ships the styles of all its components in one sheet: those of what we never show are left out. */

import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { CSSOptions } from "vite";

/** Components that are not shown, by their names in code and in style sheets; one that is imported after all stops the build. */
const UNUSED: Record<string, string> = {
  Anchor: "anchor", Avatar: "avatar", Badge: "badge", Breadcrumb: "breadcrumb", Calendar: "picker-calendar", Card: "card",
  Carousel: "carousel", Cascader: "cascader", Col: "col", Collapse: "collapse", ColorPicker: "color-picker",
  DatePicker: "picker", Descriptions: "descriptions", FloatButton: "float", Image: "image", List: "list",
  Masonry: "masonry", Mentions: "mentions", Pagination: "pagination", QRCode: "qrcode", Rate: "rate", Slider: "slider",
  Splitter: "splitter", Statistic: "statistic", Table: "table", Tabs: "tabs", TimePicker: "picker", Timeline: "timeline",
  Tour: "tour", Transfer: "transfer", Tree: "tree", TreeSelect: "tree-select", Upload: "upload",
}; // prettier-ignore

const styled = new RegExp(`\\.ant-(?:${Object.values(UNUSED).join("|")})(?![a-z])`);

/** Whether a selector reaches nothing but an unused component; what stands in brackets only restricts. */
export function reachesNothing(selector: string): boolean {
  return styled.test(selector.replace(/\([^()]*(?:\([^()]*\)[^()]*)*\)/g, ""));
}

export function unusedIn(source: string): string[] {
  const names = [...source.matchAll(/import \{([^}]*)\} from "antd"/g)].flatMap((one) => (one[1] ?? "").split(","));
  return names.map((one) => one.replace(/^\s*(?:type )?/, "").replace(/\s.*/s, "")).filter((one) => one in UNUSED);
}

function sources(folder: string): string[] {
  const found = readdirSync(folder, { recursive: true, encoding: "utf8" });
  return found.filter((one) => /\.tsx?$/.test(one)).map((one) => join(folder, one));
}

type Plugin = NonNullable<Exclude<CSSOptions["postcss"], string | undefined>["plugins"]>[number];

/** A step of making the style sheets. Throws where something imports a component whose styles are left out. */
export function withoutUnusedStyles(folder: string): Plugin {
  const wanted = sources(folder).flatMap((one) => unusedIn(readFileSync(one, "utf8")).map((name) => `${name} in ${one}`));
  if (wanted.length) throw new Error(`Take it out of UNUSED in unused-styles.ts: ${wanted.join(", ")}`);
  return {
    postcssPlugin: "without-unused-styles",
    Rule(rule) {
      const kept = rule.selectors.filter((one) => !reachesNothing(one));
      if (!kept.length) rule.remove();
      else if (kept.length < rule.selectors.length) rule.selectors = kept;
    },
  };
}

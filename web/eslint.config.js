import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";
import { readdirSync } from "node:fs";

const features = readdirSync(new URL("./src/features", import.meta.url));

// One feature never reaches into another, shared never into features or app, features never into app.
const walls = features.map((name) => ({
  files: [`src/features/${name}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: [
          { regex: `^@/(app/|features/(?!${name}(/|$)))`, message: "A feature uses shared code only." },
          { regex: "^\\.\\./", message: "Nothing is reached by climbing out of a folder: use @/shared." },
        ],
      },
    ],
  },
}));

export default tseslint.config(
  { ignores: ["dist", "src/shared/api/schema.d.ts", "src/shared/api/constants.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  { plugins: { "react-hooks": hooks }, rules: hooks.configs.recommended.rules },
  ...walls,
  {
    files: ["src/shared/**"],
    rules: {
      "no-restricted-imports": ["error", { patterns: [{ regex: "^(@|\\.\\./.*)/(app|features)/", message: "Shared code knows no feature." }] }],
    },
  },
);

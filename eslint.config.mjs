// The scripts run in browsers as modules; nothing here is bundled.
import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["jaunty_lever/web/static/vendor/**", "node_modules/**", ".venv/**"] },
  js.configs.recommended,
  {
    files: ["jaunty_lever/web/static/js/**/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.browser, htmx: "readonly" } },
    rules: {
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
    },
  },
  { files: ["assets/*.mjs", "tests/scripts/*.mjs", "*.mjs"], languageOptions: { globals: globals.node } },
];

/** Rules for the scripts of the pages and their tests. */
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["src/brightcircuit/static/js/*.js"],
    languageOptions: { globals: globals.browser },
    rules: {
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-shadow": "error",
      "no-unused-vars": ["error", { caughtErrors: "none" }],
      "max-depth": ["error", 4],
    },
  },
  { files: ["tests/scripts/*.mjs"], languageOptions: { globals: { ...globals.node, ...globals.browser } } },
];

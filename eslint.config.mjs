// What the linter holds the scripts to; make check runs it.
import js from "@eslint/js";
import globals from "globals";

const rules = {
  ...js.configs.recommended.rules,
  eqeqeq: ["error", "always", { null: "ignore" }],
  "no-var": "error",
  "prefer-const": "error",
  "no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
};

export default [
  { ignores: ["ui/dist/**", "node_modules/**", "bin/**"] },
  {
    files: ["ui/scripts/**/*.js"],
    languageOptions: {
      ecmaVersion: 2022,
      sourceType: "module",
      globals: { ...globals.browser, ...globals.serviceworker },
    },
    rules,
  },
  {
    files: ["e2e/**/*.mjs", "*.mjs"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.node, ...globals.browser } },
    rules: { ...rules, "no-undef": "off" }, // what is evaluated in a page has the page's names
  },
];

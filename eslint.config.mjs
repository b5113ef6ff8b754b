// Our own scripts; those in vendor/ are as their makers ship them.
import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: [".venv/", ".lint/", "node_modules/", "**/vendor/"] },
  js.configs.recommended,
  {
    files: ["src/rigid_bench/web/static/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.browser, htmx: "readonly", Alpine: "readonly", t: "readonly" } },
    rules: {
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-shadow": "error",
      "max-len": ["error", { code: 140, ignoreUrls: true }],
      curly: ["error", "multi-line"],
    },
  },
];

// The scripts of the sheets, as they stand together in a page.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  { languageOptions: { ecmaVersion: 2025, sourceType: "script", globals: { ...globals.browser } } },
];

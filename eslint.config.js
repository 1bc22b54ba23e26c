// How the browser's scripts are linted: `make lint` does so where eslint is there (npm install --global eslint).
// Only rules of eslint itself, so that nothing more has to be installed.
"use strict";

const inBrowser = [
  "window", "document", "location", "navigator", "localStorage", "sessionStorage", "fetch", "crypto", "CSS", "URL", "FormData", "Event",
  "KeyboardEvent", "Node", "XMLSerializer", "Blob", "Image", "AbortSignal", "speechSynthesis", "SpeechSynthesisUtterance", "setTimeout",
  "clearTimeout", "setInterval", "clearInterval", "requestAnimationFrame", "addEventListener", "console", "htmx", "Chart", "getComputedStyle",
  "matchMedia", "history", "innerHeight", "innerWidth", "ResizeObserver", "MutationObserver", "DOMPoint", "scrollBy", "URLSearchParams", "CustomEvent", "performance",
];

module.exports = [
  {
    files: ["zester/site/static/zester/*.js"],
    languageOptions: {
      ecmaVersion: 2022,
      sourceType: "script",
      globals: Object.fromEntries(inBrowser.map((name) => [name, "readonly"])),
    },
    linterOptions: { reportUnusedDisableDirectives: "error" },
    rules: {
      "no-undef": "error",
      "no-unused-vars": ["error", { caughtErrors: "none" }],
      "no-use-before-define": ["error", { functions: false, variables: false }],
      "prefer-const": "error",
      "no-var": "error",
      eqeqeq: ["error", "always", { null: "ignore" }],
      "no-shadow": "error",
      "no-implicit-globals": "error",
      "no-unreachable": "error",
      "no-dupe-keys": "error",
      "no-eval": "error",
      "no-implied-eval": "error",
      strict: ["error", "global"],
    },
  },
];

import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** Imports point downward only: app, page > views > ui, state, audio > core. */
const layer = (files, forbidden, message, ignores = []) => ({
  files,
  ignores,
  rules: {
    "@typescript-eslint/no-restricted-imports": ["error", { patterns: [{ group: forbidden, message }] }],
  },
});
const up = (...names) => names.flatMap((n) => [`@/${n}`, `@/${n}/*`, `@/${n}/**`, `**/../${n}/**`]);

export default tseslint.config(
  {
    ignores: [
      ".next/**",
      "node_modules/**",
      "next-env.d.ts",
      "public/**",
      "src/core/dsp/simd/**",
      ".cache/**",
      "test-results/**",
    ],
  },
  ...tseslint.configs.strictTypeChecked.map((c) => ({ ...c, files: ["**/*.ts", "**/*.tsx"] })),
  {
    files: ["**/*.ts", "**/*.tsx"],
    plugins: { "react-hooks": hooks },
    languageOptions: {
      parserOptions: {
        project: ["./tsconfig.json", "./src/audio/worklet/tsconfig.json"],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      // Indexing is checked (noUncheckedIndexedAccess); in hot loops over typed arrays `!` costs nothing.
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-confusing-void-expression": "off",
      "@typescript-eslint/no-unnecessary-condition": ["error", { allowConstantLoopConditions: true }],
      "@typescript-eslint/consistent-type-imports": "error",
      "@typescript-eslint/switch-exhaustiveness-check": ["error", { considerDefaultExhaustiveForUnions: true }],
    },
  },
  layer(
    ["src/core/**/*.ts"],
    [
      ...up("app", "page", "views", "ui", "state", "audio"),
      "react",
      "react-dom",
      "next",
      "next/*",
      "node:*",
      "idb",
      "comlink",
    ],
    "src/core is pure: it knows no interface, no browser and no Node.",
    ["**/*.test.ts"],
  ),
  layer(
    ["src/audio/**/*.ts", "src/state/**/*.ts", "src/state/**/*.tsx"],
    up("app", "page", "views", "ui"),
    "audio and state know no interface.",
  ),
  layer(
    ["src/ui/**/*.ts", "src/ui/**/*.tsx"],
    up("app", "page", "views", "state", "audio"),
    "ui pieces know no views and no store.",
  ),
  layer(
    ["src/views/**/*.ts", "src/views/**/*.tsx"],
    up("app", "page"),
    "views do not reach into the application shell.",
  ),
);

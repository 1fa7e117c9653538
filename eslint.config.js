import { readdirSync } from "node:fs";
import tseslint from "typescript-eslint";

// The core runs in browsers and is tested on its own: no Node module, no files, no command line in it.
const OUTER = ["cli", "node"];
const CORE = readdirSync("src").flatMap((name) =>
  OUTER.includes(name) ? [] : [name.endsWith(".ts") ? `src/${name}` : `src/${name}/**/*.ts`],
);

export default tseslint.config(
  {
    ignores: [
      "**/dist/",
      "node_modules/",
      "**/*.mjs",
      "**/*.js",
      "**/*.config.ts",
      "examples/",
      "demo-out/",
      "test/support/*.d.mts",
      ".bench/",
      "docs/",
    ],
  },
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: { parserOptions: { project: ["./tsconfig.lint.json"] } },
    rules: {
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/restrict-template-expressions": "off",
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/switch-exhaustiveness-check": ["error", { considerDefaultExhaustiveForUnions: true }],
      "@typescript-eslint/explicit-function-return-type": ["error", { allowExpressions: true }],
    },
  },
  {
    files: ["src/**/*.ts"],
    rules: {
      // a long list does not fit on the stack: pushAll, largest and smallest of src/bytes/lists.ts
      "no-restricted-syntax": [
        "error",
        ...["[callee.property.name='push']", "[callee.object.name='Math']"].map((callee) => ({
          selector: `CallExpression${callee} > SpreadElement`,
          message: "A list of any length does not fit on the stack.",
        })),
      ],
    },
  },
  {
    files: CORE,
    rules: {
      "no-restricted-imports": [
        "error",
        { patterns: [{ group: ["node:*", "**/node/*", "**/cli/*"], message: "The core imports no Node module and no outer part." }] },
      ],
    },
  },
  {
    files: ["test/**/*.ts"],
    rules: {
      "@typescript-eslint/explicit-function-return-type": "off",
      "@typescript-eslint/no-unsafe-assignment": "off",
      "@typescript-eslint/no-unsafe-member-access": "off",
      "@typescript-eslint/no-unsafe-call": "off",
      "@typescript-eslint/no-unsafe-argument": "off",
      "@typescript-eslint/no-unsafe-return": "off",
    },
  },
);

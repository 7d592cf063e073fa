import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["src/api/schema.d.ts", "node_modules"] },
  ...tseslint.configs.strictTypeChecked.map((c) => ({ ...c, files: ["src/**/*.{ts,tsx}"] })),
  {
    files: ["src/**/*.{ts,tsx}"],
    languageOptions: { parserOptions: { projectService: true } },
    plugins: { "react-hooks": hooks },
    rules: {
      ...hooks.configs.recommended.rules,
      "@typescript-eslint/no-explicit-any": "error",
      // Numbers in texts are meant; event handlers may return promises.
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: false }],
      "@typescript-eslint/no-confusing-void-expression": "off",
      // A feature is entered through its index only.
      "no-restricted-imports": [
        "error",
        { patterns: ["account", "batches", "beds", "compare", "live", "recipes", "recordings", "rooms", "runs", "settings", "targets", "workbench"].map((f) => `**/${f}/*`) },
      ],
    },
  },
);

import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/types.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  hooks.configs.flat["recommended-latest"] ?? hooks.configs["recommended-latest"],
);

import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { compressed } from "./compress.ts";
import { markdown } from "./markdown.ts";

export default defineConfig({
  plugins: [react({ jsxImportSource: "#written" }), tailwindcss(), markdown(), compressed()],
  build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
});

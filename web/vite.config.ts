import { resolve } from "node:path";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { compressed } from "./compress.ts";
import { markdown } from "./markdown.ts";
import { inLanguage } from "./texts/build.ts";

export default defineConfig({
  plugins: [
    inLanguage(process.env["NOMOTHET_TEXTS"], resolve("src")),
    react({ jsxImportSource: "#written" }),
    tailwindcss(),
    markdown(),
    compressed(),
  ],
  build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
});

import { readFileSync } from "node:fs";
import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** The one version of all parts stands in Cargo's manifest. */
const version = /^version = "(.+)"/m.exec(readFileSync(new URL("../Cargo.toml", import.meta.url), "utf8"))?.[1];

export default defineConfig({
  // Parts are found from the page, wherever a proxy has it.
  base: "./",
  plugins: [react(), tailwind()],
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  define: { __VERSION__: JSON.stringify(version) },
  build: { target: "es2022", assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:7373" } },
});

import { copyFileSync, mkdirSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";

import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Puts the API's documentation page beside the application, so that it works without a network. */
function apiDocs(): Plugin {
  return {
    name: "api-docs",
    writeBundle(options) {
      const from = dirname(createRequire(import.meta.url).resolve("swagger-ui-dist/package.json"));
      const to = join(options.dir ?? "dist", "docs");
      mkdirSync(to, { recursive: true });
      for (const file of ["swagger-ui.css", "swagger-ui-bundle.js"]) copyFileSync(join(from, file), join(to, file));
      writeFileSync(join(to, "start.js"), 'SwaggerUIBundle({ url: "/api/openapi.json", dom_id: "#swagger-ui", validatorUrl: null });\n');
    },
  };
}

export default defineConfig({
  plugins: [react(), apiDocs()],
  server: { proxy: { "/api": "http://127.0.0.1:8717" } },
  build: {
    outDir: "../src/assayer/webdist",
    emptyOutDir: true,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "react", test: /node_modules[\\/](react|react-dom|scheduler)[\\/]/ },
            { name: "mantine", test: /node_modules[\\/]@mantine[\\/]/ },
            { name: "echarts", test: /node_modules[\\/](echarts|zrender)[\\/]/ },
          ],
        },
      },
    },
  },
  test: {
    environment: "node",
    include: ["src/**/*.test.{ts,tsx}"],
    // a process for each file takes four times as long as all of the tests
    isolate: false,
  },
} as Parameters<typeof defineConfig>[0]);

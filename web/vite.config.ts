import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const documents = createHash("sha256")
  .update(readFileSync(new URL("../docs/design.schema.json", import.meta.url)))
  .digest("hex")
  .slice(0, 12);

export default defineConfig({
  plugins: [react(), tailwindcss()],
  define: { DOCUMENT_SHAPE: JSON.stringify(documents) },
  build: { chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:8000" } },
});

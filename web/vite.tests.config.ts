// Bundles the tests of units, words, time and drafts for Node's own runner; a test of Cargo's starts both (crates/server/tests/it/web.rs).
import { readdirSync } from "node:fs";
import { defineConfig } from "vite";

const tests = readdirSync("tests").filter((name) => name.endsWith(".test.ts"));

export default defineConfig({
  logLevel: "warn",
  build: {
    ssr: true,
    outDir: "node_modules/.tests",
    rolldownOptions: { input: tests.map((name) => `tests/${name}`) },
  },
});

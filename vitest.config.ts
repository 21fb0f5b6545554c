import path from "node:path";
import { defineConfig } from "vitest/config";

const root = import.meta.dirname;
const alias = { "@": path.join(root, "src"), "#sim": path.join(root, "sim") };

export default defineConfig({
  test: {
    projects: [
      {
        resolve: { alias },
        test: { name: "unit", include: ["src/**/*.test.ts", "sim/**/*.test.ts", "tests/*.test.ts", "tests/reference/**/*.test.ts"], testTimeout: 300_000 },
      },
      {
        resolve: { alias },
        // One database for all: files run one after the other, each on a database of its own.
        test: {
          name: "database",
          include: ["tests/db/**/*.test.ts", "tests/flow/**/*.test.ts"],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});

import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, it } from "vitest";

const root = path.resolve(import.meta.dirname, "..");

const filesBelow = (folder: string): string[] =>
  readdirSync(path.join(root, folder), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.(tsx?|mjs)$/.test(entry.name))
    .map((entry) => path.relative(root, path.join(entry.parentPath, entry.name)));

/** Every module that a file names: static, dynamic and re-exported, types too. */
function importsOf(file: string): string[] {
  const text = readFileSync(path.join(root, file), "utf8");
  const found = [...text.matchAll(/(?:\bfrom\s+|\bimport\s*\(\s*|^import\s+)["']([^"']+)["']/gm)].map((match) => match[1] as string);
  return found.map((name) => {
    if (name.startsWith("@/")) return `src/${name.slice(2)}`;
    if (name.startsWith("#sim/")) return `sim/${name.slice(5)}`;
    return name.startsWith(".") ? path.normalize(path.join(path.dirname(file), name)) : name;
  });
}

/** The core's parts, each of which may import those before it only. */
const CORE_ORDER = [
  "result",
  "units",
  "random",
  "stats",
  "bench",
  "plan",
  "capture",
  "intake",
  "exchange",
  "cell",
  "check",
  "compare",
  "value",
  "power",
  "report",
];
const corePart = (file: string) => (file.match(/^src\/core\/([a-z]+)/)?.[1] ?? "") as string;

interface Rule {
  folder: string;
  may: RegExp;
}

const NODE = "node:[a-z_/]+";
const RULES: Rule[] = [
  { folder: "src/core", may: /^(zod|src\/core\/.*)$/ },
  { folder: "src/db", may: new RegExp(`^(src/(core|db)/.*|src/env|drizzle-orm.*|pg|${NODE})$`) },
  {
    folder: "src/server",
    may: new RegExp(`^(src/(core|db|server)/.*|src/env|drizzle-orm|zod|csv-parse/sync|eventsource-parser|fflate|yauzl|server-only|${NODE})$`),
  },
  {
    folder: "src/ui",
    may: /^(src\/(core|ui|workers)\/.*|@dnd-kit\/.*|@tanstack\/react-virtual|@chakra-ui\/react|@emotion\/.*|react|next\/.*|next-themes|nuqs|cmdk|lucide-react|chart\.js|fflate|zod)$/,
  },
  { folder: "src/app", may: new RegExp(`^(src/(core|server|ui|app)/.*|@fontsource-variable/.*|react|react-dom|next|next/.*|nuqs/.*|zod|${NODE})$`) },
  { folder: "src/workers", may: /^(src\/(core|workers)\/.*|fflate)$/ },
  { folder: "sim", may: new RegExp(`^(src/core/(units|random|bench|cell)|sim/.*|${NODE})$`) },
  { folder: "cli", may: new RegExp(`^(src/(core|db|server)/.*|sim/.*|cli/.*|csv-parse/sync|drizzle-orm|pg|tsx/esm/api|@playwright/test|${NODE})$`) },
];

const isTest = (file: string) => /\.test\.tsx?$/.test(file);

describe("the direction of imports", () => {
  for (const { folder, may } of RULES) {
    it(`${folder} imports nothing it may not`, () => {
      const files = filesBelow(folder).filter((file) => !isTest(file));
      expect(files.length).toBeGreaterThan(0);
      const wrong = files.flatMap((file) =>
        importsOf(file)
          .filter((name) => !may.test(name))
          .map((name) => `${file} imports ${name}`),
      );
      expect(wrong).toEqual([]);
    });
  }

  it("the core's parts import only earlier parts, and those through their index", () => {
    const wrong = filesBelow("src/core")
      .filter((file) => !isTest(file))
      .flatMap((file) =>
        importsOf(file).flatMap((name) => {
          if (!name.startsWith("src/core/") || corePart(name) === corePart(file)) return [];
          const late = CORE_ORDER.indexOf(corePart(name)) >= CORE_ORDER.indexOf(corePart(file)) || !CORE_ORDER.includes(corePart(file));
          const deep = name.split("/").length > 3;
          return late || deep ? [`${file} imports ${name}`] : [];
        }),
      );
    expect(wrong).toEqual([]);
  });

  it("the queries of Drizzle stay out of ui and app", () => {
    const wrong = ["src/ui", "src/app"]
      .flatMap(filesBelow)
      .filter((file) => importsOf(file).some((name) => name.startsWith("src/db") || name.startsWith("drizzle-orm")));
    expect(wrong).toEqual([]);
  });
});

describe("the purity of the core", () => {
  const FORBIDDEN = [
    { word: /\bMath\.random\b/, why: "take a Random" },
    { word: /\bDate\.now\b|\bnew Date\(\s*\)/, why: "take an Instant" },
    { word: /\bperformance\.|\bsetTimeout\b|\bsetInterval\b/, why: "take a clock" },
    { word: /\bfetch\(|\bprocess\.|\blocalStorage\b|\bdocument\.|\bwindow\./, why: "no I/O in core" },
  ];
  for (const { word, why } of FORBIDDEN) {
    it(`has no ${word.source} (${why})`, () => {
      const wrong = filesBelow("src/core").filter((file) => !isTest(file) && word.test(readFileSync(path.join(root, file), "utf8")));
      expect(wrong).toEqual([]);
    });
  }

  it("the check sees a breach: a dynamic import of the database in core is named", () => {
    const text = 'const late = await import("@/db/client");\nexport * from "react";';
    const names = [...text.matchAll(/(?:\bfrom\s+|\bimport\s*\(\s*|^import\s+)["']([^"']+)["']/gm)].map((match) => match[1]);
    expect(names).toEqual(["@/db/client", "react"]);
  });

  it("documents every function that a domain gives out", () => {
    const undocumented = filesBelow("src/core")
      .filter((file) => !isTest(file))
      .flatMap((file) => {
        const lines = readFileSync(path.join(root, file), "utf8").split("\n");
        return lines.flatMap((line, i) =>
          /^export (async )?function /.test(line) && lines[i - 1]?.trim() !== "*/" && !lines[i - 1]?.startsWith("/**") ? [`${file}: ${line}`] : [],
        );
      });
    expect(undocumented).toEqual([]);
  });
});

describe("the lock file", () => {
  const lock = JSON.parse(readFileSync(path.join(root, "package-lock.json"), "utf8")) as {
    packages: Record<string, { optionalDependencies?: Record<string, string>; resolved?: string }>;
  };

  it("has an entry for every optional package of every platform, without which a clean install refuses it", () => {
    const missing = Object.entries(lock.packages).flatMap(([where, { optionalDependencies }]) =>
      Object.keys(optionalDependencies ?? {}).filter((name) => !lock.packages[`node_modules/${name}`] && !lock.packages[`${where}/node_modules/${name}`]),
    );
    expect(missing).toEqual([]);
  });

  it("holds no download address", () => {
    expect(Object.entries(lock.packages).filter(([, { resolved }]) => resolved !== undefined)).toEqual([]);
  });
});

import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { columnTypes } from "./columns";
import { RESOURCES, resourceNamed } from "./resources";
import { keyText, ProblemList, parseTable, type RawTable, validatePackage } from "./validatePackage";
import { writeFrameLog, writeManifest, writeSensorLog, writeTable } from "./writePackage";

const table = (name: string, header: string, ...rows: string[]): RawTable => ({
  file: `${name}.csv`,
  header: header.split(","),
  rows: rows.map((row, i) => ({ line: i + 2, cells: row.split(",") })),
});
const parse = (one: RawTable, name: string) => {
  const problems = new ProblemList();
  const rows = parseTable(resourceNamed(name), one, problems);
  return { rows, problems: problems.first };
};
const nothingInLab = () => false;

describe("the resources of the format", () => {
  it("come in an order in which each row's references are stored before it, but for a review's baseline", () => {
    const position = new Map(RESOURCES.map(({ name }, i) => [name, i]));
    const late = RESOURCES.flatMap((resource) =>
      resource.references
        .filter((reference) => (position.get(reference.resource) as number) > (position.get(resource.name) as number))
        .map((reference) => `${resource.name} → ${reference.resource}`),
    );
    // Reviews and their rows name each other; the database checks that at the commit.
    expect(late).toEqual(["reviews → review_setups"]);
  });

  it("refer only to columns that exist, and have keys among their own", () => {
    for (const resource of RESOURCES) {
      const names = resource.columns.map(({ name }) => name);
      expect(names, resource.name).toEqual(expect.arrayContaining(resource.key));
      for (const { columns, resource: other, target } of resource.references) {
        expect(names).toEqual(expect.arrayContaining(columns));
        expect(resourceNamed(other).columns.map(({ name }) => name)).toEqual(expect.arrayContaining(target));
        expect(columns.length).toBe(target.length);
      }
    }
  });

  it("are known by name only", () => {
    expect(() => resourceNamed("toasters")).toThrow("toasters");
  });
});

describe("parseTable", () => {
  it("reads empty cells as not known, numbers as numbers and true and false as such", () => {
    const { rows, problems } = parse(table("regions", "code,name,currency,tax_included,tax_rate", "NO,,NOK,true,0.25", "JP,Japan,JPY,false,"), "regions");
    expect(problems).toEqual([]);
    expect(rows.map(({ row }) => row.values)).toEqual([
      { code: "NO", name: null, currency: "NOK", tax_included: true, tax_rate: 0.25, tariff_per_kwh: null },
      { code: "JP", name: "Japan", currency: "JPY", tax_included: false, tax_rate: null, tariff_per_kwh: null },
    ]);
  });

  it("keeps the author's x_ columns as text and leaves their empty cells out", () => {
    const { rows } = parse(table("suites", "id,name,x_note,x_b", "a,One,keep me,", "b,Two,,"), "suites");
    expect(rows.map(({ row }) => row.extra)).toEqual([{ x_note: "keep me" }, null]);
  });

  it("finds columns in any order", () => {
    const { rows, problems } = parse(table("suites", "name,id", "One,a"), "suites");
    expect(problems).toEqual([]);
    expect(rows[0]?.row.values).toEqual({ id: "a", name: "One" });
  });

  const WRONG: [string, string, string, string, string, RegExp][] = [
    ["an unknown column", "suites", "id,name,colour", "a,One,red", "colour", /not a column of suites; remove it, or begin its name with x_/],
    ["a column twice", "suites", "id,name,name", "a,One,Two", "name", /appears twice/],
    ["an empty required cell", "suites", "id,name", "a,", "name", /must be filled/],
    ["an id with a space", "suites", "id,name", "a b,One", "id", /is not an id of/],
    ["an id with capitals", "suites", "id,name", "ABC,One", "id", /is not an id of/],
    ["an id that leads outside", "suites", "id,name", "../x,One", "id", /is not an id of/],
    ["an unknown kind", "parts", "id,kind,name", "a,toaster,T", "kind", /is not one of cpu, gpu, cooler/],
    ["a share above 1", "regions", "code,currency,tax_included,tax_rate", "NO,NOK,true,25", "tax_rate", /share between 0 and 1/],
    ["a currency in small letters", "regions", "code,currency,tax_included", "NO,nok,true", "currency", /ISO 4217/],
    ["yes for true", "regions", "code,currency,tax_included", "NO,NOK,yes", "tax_included", /true or false/],
    ["a day that is none", "parts", "id,kind,name,released_on", "a,gpu,T,2026-02-30", "released_on", /a day such as/],
    ["a moment without zone", "sessions", "id,bench_id,bench_revision,started_at", "s,b,1,2026-05-04T09:30:00", "started_at", /with its zone/],
    ["revision 0", "benches", "id,revision,name", "b,0,B", "revision", /whole number from 1/],
    ["half a revision", "benches", "id,revision,name", "b,1.5,B", "revision", /whole number from 1/],
    ["a rate of 0", "fx_rates", "from,to,rate,on", "NOK,PLN,0,2026-01-01", "rate", /above 0/],
    ["NaN", "run_values", "run_id,metric,value,unit", "r,result,NaN,s", "value", /a number with a point/],
    ["infinity", "run_values", "run_id,metric,value,unit", "r,result,1e999,s", "value", /a number with a point/],
    [
      "a resolution with a star",
      "tests",
      "id,version,workload_id,name,kind,unit,better,resolution",
      "t,1,w,T,frames,fps,higher,2560*1440",
      "resolution",
      /such as 2560x1440/,
    ],
    [
      "a path outside the package",
      "runs",
      "id,setup_id,test_id,test_version,number,status,frames_path",
      "r,s,t,1,1,valid,../../etc/x.csv",
      "frames_path",
      /such as frames\/run-1\.csv/,
    ],
    ["a hash of the wrong length", "workloads", "id,name,group,sha256", "w,W,games,abc", "sha256", /64 hexadecimal/],
    [
      "a rebate without its kind",
      "offers",
      "id,part_id,region,kind,price,currency,rebate,seen_on",
      "o,p,NO,street,10,NOK,1,2026-01-01",
      "rebate_kind",
      /go together/,
    ],
    ["a failed run without reason", "runs", "id,setup_id,test_id,test_version,number,status", "r,s,t,1,1,failed", "reason", /a failed run needs a reason/],
    [
      "a run that ends before it starts",
      "runs",
      "id,setup_id,test_id,test_version,number,status,started_at,ended_at",
      "r,s,t,1,1,valid,2026-01-02T00:00:00Z,2026-01-01T00:00:00Z",
      "ended_at",
      /ends before it starts/,
    ],
    ["a trim of no length", "trace_edits", "run_id,from_s,to_s,reason", "r,3,3,menu", "to_s", /after from_s/],
  ];
  for (const [name, resource, header, row, column, reason] of WRONG) {
    it(`refuses ${name} at its column`, () => {
      const { rows, problems } = parse(table(resource, header, row), resource);
      expect(problems.map((problem) => [problem.column, reason.test(problem.reason)])).toContainEqual([column, true]);
      expect(problems.every(({ line, file }) => file === `${resource}.csv` && (line === 1 || line === 2))).toBe(true);
      if (problems.some(({ line }) => line === 2)) expect(rows).toEqual([]);
    });
  }

  it("names a missing required column once, not once a row", () => {
    const { problems } = parse(table("suites", "id", "a", "b", "c"), "suites");
    expect(problems).toEqual([expect.objectContaining({ line: 1, column: "name", reason: "the required column name is missing" })]);
  });

  it("tells a row that is too long from one that is cut off", () => {
    const { problems } = parse(table("suites", "id,name", "a", "b,Two,3"), "suites");
    expect(problems.map(({ line, reason }) => [line, reason.includes("cut off"), reason.includes("needs quotes")])).toEqual([
      [2, true, false],
      [3, false, true],
    ]);
  });
});

describe("validatePackage", () => {
  const parts = table("parts", "id,kind,name", "a,gpu,A");
  const specs = (part: string) => table("part_specs", "part_id,key,value", `${part},vram,8`);

  it("accepts what refers to rows of the package or of the lab, and names what is in neither", () => {
    const check = (part: string, labHas: (resource: string) => boolean = nothingInLab) => {
      const problems = new ProblemList();
      validatePackage(
        new Map([
          ["parts", parts],
          ["part_specs", specs(part)],
        ]),
        labHas,
        problems,
      );
      return problems.first;
    };
    expect(check("a")).toEqual([]);
    expect(check("b", (resource) => resource === "parts")).toEqual([]);
    expect(check("b")).toEqual([
      expect.objectContaining({ file: "part_specs.csv", line: 2, column: "part_id", reason: expect.stringContaining('parts has no "b"') }),
    ]);
  });

  it("names the first line of a key met twice, unknown values counting as equal", () => {
    const problems = new ProblemList();
    const rows = table("setup_parts", "setup_id,part_id,role,slot,under_test", "s,a,gpu,,true", "s,a,gpu,2,true", "s,a,gpu,,false");
    validatePackage(new Map([["setup_parts", rows]]), () => true, problems);
    expect(problems.first).toEqual([expect.objectContaining({ line: 4, reason: expect.stringContaining("as line 2") })]);
  });

  it("finds two runs of one number in a cell", () => {
    const problems = new ProblemList();
    const runs = table("runs", "id,setup_id,test_id,test_version,number,status", "r1,s,t,1,1,valid", "r2,s,t,1,1,valid", "r3,s,t,2,1,valid");
    validatePackage(new Map([["runs", runs]]), () => true, problems);
    expect(problems.first.map(({ line }) => line)).toEqual([3]);
  });
});

describe("writing and reading again", () => {
  const text = fc.string({ minLength: 1, maxLength: 30 }).filter((one) => one.trim() === one && !one.includes("\u0000"));

  it("brings every kind of value back as it was", () => {
    const samples: [keyof typeof columnTypes, fc.Arbitrary<string | number | boolean>][] = [
      ["number", fc.double({ noNaN: true, noDefaultInfinity: true }).filter((n) => !Object.is(n, -0))],
      ["boolean", fc.boolean()],
      ["instant", fc.integer({ min: 0, max: 4e12 })],
      ["count", fc.integer({ min: 1, max: 2 ** 31 - 1 })],
      ["share", fc.double({ min: 0, max: 1, noNaN: true }).filter((n) => !Object.is(n, -0))],
      ["text", text],
    ];
    for (const [name, values] of samples) {
      fc.assert(
        fc.property(values, (value) => {
          const type = columnTypes[name];
          expect(type.schema.parse(type.write(value))).toEqual(value);
        }),
      );
    }
  });

  it("sorts rows by key whatever their order, and quotes what needs it", () => {
    const suites = resourceNamed("suites");
    fc.assert(
      fc.property(fc.uniqueArray(text, { minLength: 1, maxLength: 6 }), (names) => {
        const rows = names.map((name, i) => ({ values: { id: `s${i}`, name }, extra: null }));
        expect(writeTable(suites, [...rows].reverse())).toBe(writeTable(suites, rows));
      }),
    );
    expect(writeTable(suites, [{ values: { id: "a", name: 'say "hi", twice' }, extra: { x_b: "2", x_a: "1\n" } }])).toBe(
      'id,name,x_a,x_b\na,"say ""hi"", twice","1\n",2\n',
    );
  });

  it("orders keys by number where they are numbers, with what is not known first", () => {
    const rows = [10, 9, 1].map((revision) => ({ values: { id: "b", revision, name: `r${revision}`, created_on: null }, extra: null }));
    expect(
      writeTable(resourceNamed("benches"), rows)
        .split("\n")
        .slice(1, 4)
        .map((line) => line.split(",")[1]),
    ).toEqual(["1", "9", "10"]);
  });

  it("writes logs with their shortest exact numbers and leaves gaps empty", () => {
    expect(writeFrameLog(Float64Array.of(16.7, 0.1 + 0.2))).toBe("frame_time_ms\n16.7\n0.30000000000000004\n");
    expect(writeSensorLog(Float64Array.of(-1, 0.5), [{ name: "gpu_w", values: Float64Array.of(200, Number.NaN) }])).toBe("t_s,gpu_w\n-1,200\n0.5,\n");
  });

  it("lists in the manifest only what holds rows, with fields, keys and the format's version", () => {
    const manifest = JSON.parse(writeManifest("small", ["suites"])) as {
      parvex_format: number;
      resources: { name: string; schema: { primaryKey: string[]; fields: { name: string }[] } }[];
    };
    expect(manifest.parvex_format).toBe(1);
    expect(manifest.resources.map(({ name }) => name)).toEqual(["suites"]);
    expect(manifest.resources[0]?.schema.primaryKey).toEqual(["id"]);
    expect(manifest.resources[0]?.schema.fields.map(({ name }) => name)).toEqual(["id", "name"]);
  });

  it("tells keys apart that would look the same when glued together", () => {
    expect(keyText({ a: "x", b: "y z" }, ["a", "b"])).not.toBe(keyText({ a: "x y", b: "z" }, ["a", "b"]));
    expect(keyText({ a: null }, ["a"])).not.toBe(keyText({ a: "null" }, ["a"]));
  });
});

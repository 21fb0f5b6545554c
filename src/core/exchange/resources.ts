import type { ColumnTypeName } from "./columns";

/** One column: its kind, and whether it must be filled. */
export interface Column {
  name: string;
  type: ColumnTypeName;
  required: boolean;
}

/** A reference: these columns together name a row of another resource (by its columns there). Ignored where any is empty. */
export interface Reference {
  columns: string[];
  resource: string;
  target: string[];
}

/** One tabular resource of the format. */
export interface Resource {
  name: string;
  columns: Column[];
  /** Columns that name a row; empty values count as such. */
  key: string[];
  references: Reference[];
  /** Rows that are records of what was done: an imported difference can never replace them. */
  immutable: boolean;
}

/** Writes a resource's columns as `name:type`, with `*` after the type where it is required. */
function resource(name: string, columns: string, key: string, references: Record<string, string> = {}, options: { immutable?: boolean } = {}): Resource {
  return {
    name,
    columns: columns.split(/\s+/).map((text) => {
      const [column, type] = text.split(":") as [string, string];
      return { name: column, type: type.replace("*", "") as ColumnTypeName, required: type.endsWith("*") };
    }),
    key: key.split(" "),
    references: Object.entries(references).map(([columns, target]) => {
      const [other, targetColumns] = target.split("/") as [string, string];
      return { columns: columns.split(" "), resource: other, target: targetColumns.split(" ") };
    }),
    immutable: options.immutable ?? false,
  };
}

const RECORD = { immutable: true };
const BENCH = { "bench_id bench_revision": "benches/id revision" };
const TEST = { "test_id test_version": "tests/id version" };

/**
 * The resources of the exchange format, version 1, in the order in which rows may be stored: each after those it names.
 */
export const RESOURCES: readonly Resource[] = [
  resource("regions", "code:text* name:text currency:currency* tax_included:boolean* tax_rate:share tariff_per_kwh:notNegative", "code"),
  resource("fx_rates", "from:currency* to:currency* rate:positive* on:date* source:text", "from to on"),
  resource("parts", "id:slug* kind:partKind* maker:text name:text* released_on:date", "id"),
  resource("part_specs", "part_id:slug* key:text* value:text* unit:text source:text as_of:date", "part_id key", { part_id: "parts/id" }),
  resource("part_contents", "part_id:slug* contains_part_id:slug* quantity:count", "part_id contains_part_id", {
    part_id: "parts/id",
    contains_part_id: "parts/id",
  }),
  resource("samples", "id:slug* part_id:slug* label:text* source:text", "id", { part_id: "parts/id" }),
  resource(
    "offers",
    "id:slug* part_id:slug* region:text* kind:offerKind* condition:condition price:amount* currency:currency* tax_included:boolean rebate:amount rebate_kind:rebateKind shipping:amount in_stock:boolean shop:text listing:text seen_on:date*",
    "id",
    { part_id: "parts/id", region: "regions/code" },
  ),
  resource("benches", "id:slug* revision:count* name:text* created_on:date", "id revision", {}, RECORD),
  resource(
    "bench_parts",
    "bench_id:slug* revision:count* part_id:slug* role:text* slot:text quantity:count",
    "bench_id revision part_id role slot",
    { "bench_id revision": "benches/id revision", part_id: "parts/id" },
    RECORD,
  ),
  resource(
    "bench_state",
    "bench_id:slug* revision:count* key:text* value:text*",
    "bench_id revision key",
    { "bench_id revision": "benches/id revision" },
    RECORD,
  ),
  resource(
    "bench_twins",
    "bench_id:slug* revision:count* twin_bench_id:slug* twin_revision:count* declared_by:text why:text",
    "bench_id revision twin_bench_id twin_revision",
    { "bench_id revision": "benches/id revision", "twin_bench_id twin_revision": "benches/id revision" },
  ),
  resource("workloads", "id:slug* name:text* group:text* data_set:text sha256:sha256", "id"),
  resource(
    "tests",
    "id:slug* version:count* workload_id:slug* name:text* kind:testKind* unit:text* better:better* loads:loads scene:text resolution:resolution render_resolution:resolution preset:text ray_tracing:text upscaling:text frame_generation:text api:text cache:cache start_at:text stop_at:text load_s:notNegative warmup_s:notNegative length_s:notNegative reset_s:notNegative ladder_id:slug level:number definition:text",
    "id version",
    { workload_id: "workloads/id" },
    RECORD,
  ),
  resource("suites", "id:slug* name:text*", "id"),
  resource("suite_tests", "suite_id:slug* test_id:slug* test_version:count* runs:count* position:count*", "suite_id test_id test_version", {
    suite_id: "suites/id",
    ...TEST,
  }),
  resource("setups", "id:slug* bench_id:slug* bench_revision:count* label:text*", "id", BENCH, RECORD),
  resource(
    "setup_parts",
    "setup_id:slug* part_id:slug* sample_id:slug role:text* slot:text quantity:count under_test:boolean*",
    "setup_id part_id role slot",
    { setup_id: "setups/id", part_id: "parts/id", sample_id: "samples/id" },
    RECORD,
  ),
  resource("setup_state", "setup_id:slug* key:text* value:text* unit:text", "setup_id key", { setup_id: "setups/id" }, RECORD),
  resource(
    "reviews",
    "id:slug* title:text* question_kind:text question:text baseline_setup_id:slug* suite_id:slug margin:positive low_school:lowSchool price_rule:text embargo_until:instant",
    "id",
    { suite_id: "suites/id", "id baseline_setup_id": "review_setups/review_id setup_id" },
  ),
  resource("review_setups", "review_id:slug* setup_id:slug* position:count* role:setupRole", "review_id setup_id", {
    review_id: "reviews/id",
    setup_id: "setups/id",
  }),
  resource("sessions", "id:slug* bench_id:slug* bench_revision:count* operator:text started_at:instant ambient_c:number", "id", BENCH, RECORD),
  resource("mounts", "id:slug* setup_id:slug* number:count* paste:text", "id", { setup_id: "setups/id" }, RECORD),
  resource(
    "runs",
    "id:slug* setup_id:slug* test_id:slug* test_version:count* number:count* session_id:slug mount_id:slug block:block started_at:instant ended_at:instant ambient_c:number status:runStatus* reason:text frames_path:framesPath sensors_path:sensorsPath source_sha256:sha256 note:text",
    "id",
    { setup_id: "setups/id", ...TEST, session_id: "sessions/id", mount_id: "mounts/id" },
    RECORD,
  ),
  resource(
    "run_values",
    "run_id:slug* metric:text* value:number* unit:text* at:powerAt distance_m:positive background_dba:number instrument:text",
    "run_id metric at distance_m instrument",
    { run_id: "runs/id" },
    RECORD,
  ),
  resource("opinions", "run_id:slug* who:text screen:text blind:boolean score:number* text:text", "run_id who screen", { run_id: "runs/id" }),
  resource("trace_edits", "run_id:slug* from_s:number* to_s:number* reason:text* who:text at:instant undone_at:instant", "run_id from_s to_s at", {
    run_id: "runs/id",
  }),
  resource(
    "findings",
    "id:slug* check:text* check_version:count* subject:text* state:findingState* reason:text who:text at:instant evidence_sha256:sha256",
    "id",
  ),
  resource("claims", "id:slug* review_id:slug* sentence:text* computation:text* holds:boolean checked_at:instant", "id", { review_id: "reviews/id" }),
];

/** A resource by its name. Errors: RangeError for a name that is none. */
export function resourceNamed(name: string): Resource {
  const found = RESOURCES.find((one) => one.name === name);
  if (!found) throw new RangeError(`no resource is named ${name}`);
  return found;
}

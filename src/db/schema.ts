import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  check,
  customType,
  date,
  doublePrecision,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  unique,
} from "drizzle-orm/pg-core";

const bytea = customType<{ data: Buffer }>({ dataType: () => "bytea" });
const moment = () => timestamp({ withTimezone: true, precision: 3, mode: "date" });

/** The author's own `x_` columns of the exchange format. */
const extra = () => jsonb().$type<Record<string, string>>();
/** Raised by every edit; an edit names the version it saw, so that a second editor is told. */
const rowVersion = () => integer().notNull().default(1);
const oneOf = (column: string, values: string) =>
  sql.raw(
    `"${column}" in (${values
      .split(" ")
      .map((value) => `'${value}'`)
      .join(", ")})`,
  );

// ── People and the trail of what they did ──

export const people = pgTable("people", { id: text().primaryKey(), name: text().notNull(), role: text().notNull() });

export const audit = pgTable(
  "audit",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    at: moment().notNull(),
    who: text().notNull(),
    action: text().notNull(),
    subject: text().notNull(),
    detail: jsonb().notNull().default({}),
  },
  (t) => [index().on(t.subject)],
);

// ── Parts, regions, prices ──

export const regions = pgTable("regions", {
  code: text().primaryKey(),
  name: text(),
  currency: text().notNull(),
  taxIncluded: boolean().notNull(),
  taxRate: doublePrecision(),
  tariffPerKwh: doublePrecision(),
  extra: extra(),
  rowVersion: rowVersion(),
});

export const fxRates = pgTable(
  "fx_rates",
  { from: text().notNull(), to: text().notNull(), rate: doublePrecision().notNull(), on: date().notNull(), source: text(), extra: extra() },
  (t) => [primaryKey({ columns: [t.from, t.to, t.on] }), check("fx_rates_rate", sql`${t.rate} > 0`)],
);

export const parts = pgTable(
  "parts",
  {
    id: text().primaryKey(),
    kind: text().notNull(),
    maker: text(),
    name: text().notNull(),
    releasedOn: date(),
    extra: extra(),
    rowVersion: rowVersion(),
  },
  () => [check("parts_kind", oneOf("kind", "cpu gpu cooler board memory psu storage system"))],
);

export const partSpecs = pgTable(
  "part_specs",
  {
    partId: text()
      .notNull()
      .references(() => parts.id),
    key: text().notNull(),
    value: text().notNull(),
    unit: text(),
    source: text(),
    asOf: date(),
    extra: extra(),
  },
  (t) => [primaryKey({ columns: [t.partId, t.key] })],
);

export const partContents = pgTable(
  "part_contents",
  {
    partId: text()
      .notNull()
      .references(() => parts.id),
    containsPartId: text()
      .notNull()
      .references(() => parts.id),
    quantity: integer(),
    extra: extra(),
  },
  (t) => [primaryKey({ columns: [t.partId, t.containsPartId] })],
);

export const samples = pgTable("samples", {
  id: text().primaryKey(),
  partId: text()
    .notNull()
    .references(() => parts.id),
  label: text().notNull(),
  source: text(),
  extra: extra(),
});

export const offers = pgTable(
  "offers",
  {
    id: text().primaryKey(),
    partId: text()
      .notNull()
      .references(() => parts.id),
    region: text()
      .notNull()
      .references(() => regions.code),
    kind: text().notNull(),
    condition: text(),
    /** Whole minor units of `currency`. */
    priceMinor: bigint({ mode: "number" }).notNull(),
    currency: text().notNull(),
    taxIncluded: boolean(),
    rebateMinor: bigint({ mode: "number" }),
    rebateKind: text(),
    shippingMinor: bigint({ mode: "number" }),
    inStock: boolean(),
    shop: text(),
    listing: text(),
    seenOn: date().notNull(),
    extra: extra(),
    rowVersion: rowVersion(),
  },
  (t) => [
    index().on(t.partId, t.region),
    check("offers_price", sql`${t.priceMinor} > 0`),
    check("offers_kind", oneOf("kind", "launch street used_sold")),
    check("offers_rebate", sql`(${t.rebateMinor} is null) = (${t.rebateKind} is null)`),
  ],
);

// ── Benches ──

export const benches = pgTable(
  "benches",
  { id: text().notNull(), revision: integer().notNull(), name: text().notNull(), createdOn: date(), extra: extra() },
  (t) => [primaryKey({ columns: [t.id, t.revision] }), check("benches_revision", sql`${t.revision} >= 1`)],
);

export const benchParts = pgTable(
  "bench_parts",
  {
    benchId: text().notNull(),
    revision: integer().notNull(),
    partId: text()
      .notNull()
      .references(() => parts.id),
    role: text().notNull(),
    slot: text(),
    quantity: integer(),
    extra: extra(),
  },
  (t) => [
    unique().on(t.benchId, t.revision, t.partId, t.role, t.slot).nullsNotDistinct(),
    foreignKey({ columns: [t.benchId, t.revision], foreignColumns: [benches.id, benches.revision] }),
  ],
);

export const benchState = pgTable(
  "bench_state",
  { benchId: text().notNull(), revision: integer().notNull(), key: text().notNull(), value: text().notNull(), extra: extra() },
  (t) => [
    primaryKey({ columns: [t.benchId, t.revision, t.key] }),
    foreignKey({ columns: [t.benchId, t.revision], foreignColumns: [benches.id, benches.revision] }),
  ],
);

export const benchTwins = pgTable(
  "bench_twins",
  {
    benchId: text().notNull(),
    revision: integer().notNull(),
    twinBenchId: text().notNull(),
    twinRevision: integer().notNull(),
    declaredBy: text(),
    why: text(),
    extra: extra(),
  },
  (t) => [
    primaryKey({ columns: [t.benchId, t.revision, t.twinBenchId, t.twinRevision] }),
    foreignKey({ columns: [t.benchId, t.revision], foreignColumns: [benches.id, benches.revision] }),
    foreignKey({ columns: [t.twinBenchId, t.twinRevision], foreignColumns: [benches.id, benches.revision] }),
  ],
);

// ── Workloads, tests and their versions, suites ──

export const workloads = pgTable("workloads", {
  id: text().primaryKey(),
  name: text().notNull(),
  group: text().notNull(),
  dataSet: text(),
  sha256: text(),
  extra: extra(),
});

export const tests = pgTable(
  "tests",
  {
    id: text().notNull(),
    version: integer().notNull(),
    workloadId: text()
      .notNull()
      .references(() => workloads.id),
    name: text().notNull(),
    kind: text().notNull(),
    unit: text().notNull(),
    better: text().notNull(),
    loads: text(),
    scene: text(),
    resolution: text(),
    renderResolution: text(),
    preset: text(),
    rayTracing: text(),
    upscaling: text(),
    frameGeneration: text(),
    api: text(),
    cache: text(),
    startAt: text(),
    stopAt: text(),
    loadS: doublePrecision(),
    warmupS: doublePrecision(),
    lengthS: doublePrecision(),
    resetS: doublePrecision(),
    ladderId: text(),
    level: doublePrecision(),
    definition: text(),
    extra: extra(),
  },
  (t) => [
    primaryKey({ columns: [t.id, t.version] }),
    check("tests_kind", oneOf("kind", "frames time score rate soak sound")),
    check("tests_better", oneOf("better", "higher lower none")),
  ],
);

export const suites = pgTable("suites", { id: text().primaryKey(), name: text().notNull(), extra: extra(), rowVersion: rowVersion() });

export const suiteTests = pgTable(
  "suite_tests",
  {
    suiteId: text()
      .notNull()
      .references(() => suites.id),
    testId: text().notNull(),
    testVersion: integer().notNull(),
    runs: integer().notNull(),
    position: integer().notNull(),
    extra: extra(),
  },
  (t) => [
    primaryKey({ columns: [t.suiteId, t.testId, t.testVersion] }),
    foreignKey({ columns: [t.testId, t.testVersion], foreignColumns: [tests.id, tests.version] }),
    check("suite_tests_runs", sql`${t.runs} >= 1`),
  ],
);

// ── Setups belong to the lab; reviews point at them ──

export const setups = pgTable(
  "setups",
  { id: text().primaryKey(), benchId: text().notNull(), benchRevision: integer().notNull(), label: text().notNull(), extra: extra() },
  (t) => [foreignKey({ columns: [t.benchId, t.benchRevision], foreignColumns: [benches.id, benches.revision] })],
);

export const setupParts = pgTable(
  "setup_parts",
  {
    setupId: text()
      .notNull()
      .references(() => setups.id),
    partId: text()
      .notNull()
      .references(() => parts.id),
    sampleId: text().references(() => samples.id),
    role: text().notNull(),
    slot: text(),
    quantity: integer(),
    underTest: boolean().notNull(),
    extra: extra(),
  },
  (t) => [unique().on(t.setupId, t.partId, t.role, t.slot).nullsNotDistinct()],
);

export const setupState = pgTable(
  "setup_state",
  {
    setupId: text()
      .notNull()
      .references(() => setups.id),
    key: text().notNull(),
    value: text().notNull(),
    unit: text(),
    extra: extra(),
  },
  (t) => [primaryKey({ columns: [t.setupId, t.key] })],
);

/** The baseline is one of the review's setups: a deferrable foreign key (id, baseline) → review_setups, written by hand in the migration. */
export const reviews = pgTable(
  "reviews",
  {
    id: text().primaryKey(),
    title: text().notNull(),
    questionKind: text(),
    question: text(),
    baselineSetupId: text().notNull(),
    suiteId: text().references(() => suites.id),
    margin: doublePrecision(),
    lowSchool: text(),
    priceRule: text(),
    embargoUntil: moment(),
    extra: extra(),
    rowVersion: rowVersion(),
  },
  () => [check("reviews_low_school", oneOf("low_school", "percentile tail_mean time_share"))],
);

export const reviewSetups = pgTable(
  "review_setups",
  {
    reviewId: text()
      .notNull()
      .references(() => reviews.id),
    setupId: text()
      .notNull()
      .references(() => setups.id),
    position: integer().notNull(),
    role: text(),
    extra: extra(),
  },
  (t) => [
    primaryKey({ columns: [t.reviewId, t.setupId] }),
    unique().on(t.reviewId, t.position),
    check("review_setups_role", oneOf("role", "subject peer owned")),
  ],
);

// ── Runs, their values, their traces ──

export const sessions = pgTable(
  "sessions",
  {
    id: text().primaryKey(),
    benchId: text().notNull(),
    benchRevision: integer().notNull(),
    operator: text(),
    startedAt: moment(),
    ambientC: doublePrecision(),
    extra: extra(),
  },
  (t) => [foreignKey({ columns: [t.benchId, t.benchRevision], foreignColumns: [benches.id, benches.revision] })],
);

export const mounts = pgTable("mounts", {
  id: text().primaryKey(),
  setupId: text()
    .notNull()
    .references(() => setups.id),
  number: integer().notNull(),
  paste: text(),
  extra: extra(),
});

export const runs = pgTable(
  "runs",
  {
    id: text().primaryKey(),
    setupId: text()
      .notNull()
      .references(() => setups.id),
    testId: text().notNull(),
    testVersion: integer().notNull(),
    number: integer().notNull(),
    sessionId: text().references(() => sessions.id),
    mountId: text().references(() => mounts.id),
    block: text(),
    startedAt: moment(),
    endedAt: moment(),
    ambientC: doublePrecision(),
    status: text().notNull(),
    reason: text(),
    sourceSha256: text(),
    note: text(),
    extra: extra(),
    rowVersion: rowVersion(),
  },
  (t) => [
    foreignKey({ columns: [t.testId, t.testVersion], foreignColumns: [tests.id, tests.version] }),
    unique().on(t.setupId, t.testId, t.testVersion, t.number),
    index().on(t.testId, t.testVersion),
    check("runs_status", oneOf("status", "valid discarded failed")),
    check("runs_reason", sql`${t.status} = 'valid' or ${t.reason} is not null`),
  ],
);

export const runValues = pgTable(
  "run_values",
  {
    runId: text()
      .notNull()
      .references(() => runs.id),
    metric: text().notNull(),
    value: doublePrecision().notNull(),
    unit: text().notNull(),
    at: text(),
    distanceM: doublePrecision(),
    backgroundDba: doublePrecision(),
    instrument: text(),
    extra: extra(),
  },
  (t) => [unique().on(t.runId, t.metric, t.at, t.distanceM, t.instrument).nullsNotDistinct(), check("run_values_at", oneOf("at", "device package wall"))],
);

export const opinions = pgTable(
  "opinions",
  {
    runId: text()
      .notNull()
      .references(() => runs.id),
    who: text(),
    screen: text(),
    blind: boolean(),
    score: doublePrecision().notNull(),
    text: text(),
    extra: extra(),
  },
  (t) => [unique().on(t.runId, t.who, t.screen).nullsNotDistinct()],
);

/** One channel of one log, bit for bit. `log` is frames or sensors; `position` keeps the columns' order; 0 of sensors is time. */
export const traces = pgTable(
  "traces",
  {
    runId: text()
      .notNull()
      .references(() => runs.id),
    log: text().notNull(),
    position: integer().notNull(),
    channel: text().notNull(),
    unit: text().notNull(),
    codec: text().notNull(),
    count: integer().notNull(),
    /** Of the values as little-endian doubles. */
    sha256: text().notNull(),
    bytes: bytea().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.runId, t.log, t.position] }),
    unique().on(t.runId, t.log, t.channel, t.unit),
    check("traces_log", oneOf("log", "frames sensors")),
  ],
);

export const traceEdits = pgTable(
  "trace_edits",
  {
    runId: text()
      .notNull()
      .references(() => runs.id),
    fromS: doublePrecision().notNull(),
    toS: doublePrecision().notNull(),
    reason: text().notNull(),
    who: text(),
    at: moment(),
    undoneAt: moment(),
    extra: extra(),
  },
  (t) => [unique().on(t.runId, t.fromS, t.toS, t.at).nullsNotDistinct(), check("trace_edits_span", sql`${t.toS} > ${t.fromS}`)],
);

/** What was derived from a run's traces, by the version of the method; can always be made again. */
export const runStatistics = pgTable("run_statistics", {
  runId: text()
    .primaryKey()
    .references(() => runs.id),
  methodVersion: integer().notNull(),
  frames: jsonb(),
  pacing: jsonb(),
  energy: jsonb(),
  /** Loads, clocks, temperatures and throttling, from the sensors. */
  facts: jsonb(),
});

// ── What the checks doubt, what is claimed, what was published ──

export const findings = pgTable(
  "findings",
  {
    id: text().primaryKey(),
    check: text().notNull(),
    checkVersion: integer().notNull(),
    subject: text().notNull(),
    state: text().notNull(),
    reason: text(),
    who: text(),
    at: moment(),
    evidenceSha256: text(),
    extra: extra(),
    /** The evidence as computed last; null once the checks no longer raise it. */
    evidence: jsonb(),
    rowVersion: rowVersion(),
  },
  () => [check("findings_state", oneOf("state", "open accepted dismissed"))],
);

export const claims = pgTable("claims", {
  id: text().primaryKey(),
  reviewId: text()
    .notNull()
    .references(() => reviews.id),
  sentence: text().notNull(),
  computation: text().notNull(),
  holds: boolean(),
  checkedAt: moment(),
  extra: extra(),
  rowVersion: rowVersion(),
});

/** Frozen, versioned publications; a trigger refuses any change. */
export const reports = pgTable(
  "reports",
  {
    id: text().primaryKey(),
    reviewId: text()
      .notNull()
      .references(() => reviews.id),
    slug: text().notNull(),
    version: integer().notNull(),
    schemaVersion: integer().notNull(),
    methodVersion: integer().notNull(),
    publishedAt: moment().notNull(),
    publishedBy: text().notNull(),
    embargoUntil: moment(),
    snapshot: jsonb().notNull(),
  },
  (t) => [unique().on(t.slug, t.version)],
);

// ── Planning and running: lab hours, plans, run sheets, instruments ──

/** The lab's own settings, one row. */
export const labSettings = pgTable("lab_settings", { id: text().primaryKey(), hours: jsonb().notNull(), rowVersion: rowVersion() });

/** What rows of a review do not share although it was to be held constant, and what the editor made of it. */
export const declaredDifferences = pgTable(
  "declared_differences",
  {
    reviewId: text()
      .notNull()
      .references(() => reviews.id),
    property: text().notNull(),
    /** Declared: shown with the chart. Split: a chart for each value. */
    decision: text().notNull(),
    why: text().notNull(),
    who: text().notNull(),
    at: moment().notNull(),
  },
  (t) => [primaryKey({ columns: [t.reviewId, t.property] }), check("declared_differences_decision", oneOf("decision", "declared split"))],
);

/** Plans of a review; the highest number is the one in force. A started plan is never changed, only followed by another. */
export const reviewPlans = pgTable(
  "review_plans",
  {
    reviewId: text()
      .notNull()
      .references(() => reviews.id),
    number: integer().notNull(),
    choices: jsonb().notNull(),
    plan: jsonb().notNull(),
    /** Hours planned when it was made, for comparing with what it took. */
    plannedSeconds: doublePrecision().notNull(),
    plannedSd: doublePrecision().notNull(),
    madeBy: text().notNull(),
    madeAt: moment().notNull(),
  },
  (t) => [primaryKey({ columns: [t.reviewId, t.number] })],
);

/** What happened at a run sheet, in order; only ever added to. */
export const sheetEvents = pgTable(
  "sheet_events",
  {
    reviewId: text().notNull(),
    planNumber: integer().notNull(),
    benchId: text().notNull(),
    sequence: integer().notNull(),
    at: moment().notNull(),
    who: text().notNull(),
    stepKey: text().notNull(),
    kind: text().notNull(),
    text: text(),
    runId: text().references(() => runs.id),
    pace: doublePrecision().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.reviewId, t.planNumber, t.benchId, t.sequence] }),
    foreignKey({ columns: [t.reviewId, t.planNumber], foreignColumns: [reviewPlans.reviewId, reviewPlans.number] }),
    check("sheet_events_kind", oneOf("kind", "start done failed skipped rerun note check acknowledge undo")),
  ],
);

/** What steps really took: what the time model learns from. Derived from the sheets, can be made again. */
export const stepTimes = pgTable(
  "step_times",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    reviewId: text().notNull(),
    planNumber: integer().notNull(),
    benchId: text().notNull(),
    activity: text().notNull(),
    detail: text().notNull(),
    seconds: doublePrecision().notNull(),
  },
  (t) => [foreignKey({ columns: [t.reviewId, t.planNumber], foreignColumns: [reviewPlans.reviewId, reviewPlans.number] })],
);

/** Where instruments answer; each address may serve several. */
export const instrumentHosts = pgTable("instrument_hosts", {
  address: text().primaryKey(),
  name: text().notNull(),
  addedBy: text().notNull(),
  addedAt: moment().notNull(),
});

// ── Taking logs in: profiles, patterns, and what each file of a large import came to ──

/** How files of one shape are read; offered when a file of the same shape comes again. */
export const importProfiles = pgTable("import_profiles", {
  fingerprint: text().primaryKey(),
  name: text().notNull(),
  shape: jsonb().notNull(),
  uses: jsonb().notNull(),
  madeBy: text().notNull(),
  madeAt: moment().notNull(),
});

/** How paths name setup, test and run; the newest comes first. */
export const pathPatterns = pgTable("path_patterns", {
  template: text().primaryKey(),
  meanings: jsonb().notNull(),
  madeBy: text().notNull(),
  madeAt: moment().notNull(),
});

/** One large import: stays open until its last file has come to something, over closed tabs and killed servers. */
export const intakes = pgTable(
  "intakes",
  {
    id: text().primaryKey(),
    label: text().notNull(),
    state: text().notNull(),
    madeBy: text().notNull(),
    madeAt: moment().notNull(),
    endedAt: moment(),
  },
  () => [check("intakes_state", oneOf("state", "open done cancelled"))],
);

/** What became of each file. `stamp` is its size and time of change: a file that changed is another file. */
export const intakeFiles = pgTable(
  "intake_files",
  {
    intakeId: text()
      .notNull()
      .references(() => intakes.id),
    path: text().notNull(),
    stamp: text().notNull(),
    setupId: text().notNull(),
    testId: text().notNull(),
    testVersion: integer().notNull(),
    number: integer().notNull(),
    state: text().notNull(),
    reason: text(),
    runId: text().references(() => runs.id),
  },
  (t) => [primaryKey({ columns: [t.intakeId, t.path] }), check("intake_files_state", oneOf("state", "waiting stored present refused"))],
);

/** The lab's own thresholds of the checks, one row; absent values are the product's. */
export const checkSettings = pgTable("check_settings", { id: text().primaryKey(), thresholds: jsonb().notNull(), rowVersion: rowVersion() });

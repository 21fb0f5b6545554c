CREATE TABLE "audit" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"who" text NOT NULL,
	"action" text NOT NULL,
	"subject" text NOT NULL,
	"detail" jsonb DEFAULT '{}'::jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "bench_parts" (
	"bench_id" text NOT NULL,
	"revision" integer NOT NULL,
	"part_id" text NOT NULL,
	"role" text NOT NULL,
	"slot" text,
	"quantity" integer,
	"extra" jsonb,
	CONSTRAINT "bench_parts_benchId_revision_partId_role_slot_unique" UNIQUE NULLS NOT DISTINCT("bench_id","revision","part_id","role","slot")
);
--> statement-breakpoint
CREATE TABLE "bench_state" (
	"bench_id" text NOT NULL,
	"revision" integer NOT NULL,
	"key" text NOT NULL,
	"value" text NOT NULL,
	"extra" jsonb,
	CONSTRAINT "bench_state_bench_id_revision_key_pk" PRIMARY KEY("bench_id","revision","key")
);
--> statement-breakpoint
CREATE TABLE "bench_twins" (
	"bench_id" text NOT NULL,
	"revision" integer NOT NULL,
	"twin_bench_id" text NOT NULL,
	"twin_revision" integer NOT NULL,
	"declared_by" text,
	"why" text,
	"extra" jsonb,
	CONSTRAINT "bench_twins_bench_id_revision_twin_bench_id_twin_revision_pk" PRIMARY KEY("bench_id","revision","twin_bench_id","twin_revision")
);
--> statement-breakpoint
CREATE TABLE "benches" (
	"id" text NOT NULL,
	"revision" integer NOT NULL,
	"name" text NOT NULL,
	"created_on" date,
	"extra" jsonb,
	CONSTRAINT "benches_id_revision_pk" PRIMARY KEY("id","revision"),
	CONSTRAINT "benches_revision" CHECK ("benches"."revision" >= 1)
);
--> statement-breakpoint
CREATE TABLE "claims" (
	"id" text PRIMARY KEY NOT NULL,
	"review_id" text NOT NULL,
	"sentence" text NOT NULL,
	"computation" text NOT NULL,
	"holds" boolean,
	"checked_at" timestamp (3) with time zone,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "findings" (
	"id" text PRIMARY KEY NOT NULL,
	"check" text NOT NULL,
	"check_version" integer NOT NULL,
	"subject" text NOT NULL,
	"state" text NOT NULL,
	"reason" text,
	"who" text,
	"at" timestamp (3) with time zone,
	"evidence_sha256" text,
	"extra" jsonb,
	"evidence" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "findings_state" CHECK ("state" in ('open', 'accepted', 'dismissed'))
);
--> statement-breakpoint
CREATE TABLE "fx_rates" (
	"from" text NOT NULL,
	"to" text NOT NULL,
	"rate" double precision NOT NULL,
	"on" date NOT NULL,
	"source" text,
	"extra" jsonb,
	CONSTRAINT "fx_rates_from_to_on_pk" PRIMARY KEY("from","to","on"),
	CONSTRAINT "fx_rates_rate" CHECK ("fx_rates"."rate" > 0)
);
--> statement-breakpoint
CREATE TABLE "mounts" (
	"id" text PRIMARY KEY NOT NULL,
	"setup_id" text NOT NULL,
	"number" integer NOT NULL,
	"paste" text,
	"extra" jsonb
);
--> statement-breakpoint
CREATE TABLE "offers" (
	"id" text PRIMARY KEY NOT NULL,
	"part_id" text NOT NULL,
	"region" text NOT NULL,
	"kind" text NOT NULL,
	"condition" text,
	"price_minor" bigint NOT NULL,
	"currency" text NOT NULL,
	"tax_included" boolean,
	"rebate_minor" bigint,
	"rebate_kind" text,
	"shipping_minor" bigint,
	"in_stock" boolean,
	"shop" text,
	"listing" text,
	"seen_on" date NOT NULL,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "offers_price" CHECK ("offers"."price_minor" > 0),
	CONSTRAINT "offers_kind" CHECK ("kind" in ('launch', 'street', 'used_sold')),
	CONSTRAINT "offers_rebate" CHECK (("offers"."rebate_minor" is null) = ("offers"."rebate_kind" is null))
);
--> statement-breakpoint
CREATE TABLE "opinions" (
	"run_id" text NOT NULL,
	"who" text,
	"screen" text,
	"blind" boolean,
	"score" double precision NOT NULL,
	"text" text,
	"extra" jsonb,
	CONSTRAINT "opinions_runId_who_screen_unique" UNIQUE NULLS NOT DISTINCT("run_id","who","screen")
);
--> statement-breakpoint
CREATE TABLE "part_contents" (
	"part_id" text NOT NULL,
	"contains_part_id" text NOT NULL,
	"quantity" integer,
	"extra" jsonb,
	CONSTRAINT "part_contents_part_id_contains_part_id_pk" PRIMARY KEY("part_id","contains_part_id")
);
--> statement-breakpoint
CREATE TABLE "part_specs" (
	"part_id" text NOT NULL,
	"key" text NOT NULL,
	"value" text NOT NULL,
	"unit" text,
	"source" text,
	"as_of" date,
	"extra" jsonb,
	CONSTRAINT "part_specs_part_id_key_pk" PRIMARY KEY("part_id","key")
);
--> statement-breakpoint
CREATE TABLE "parts" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"maker" text,
	"name" text NOT NULL,
	"released_on" date,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "parts_kind" CHECK ("kind" in ('cpu', 'gpu', 'cooler', 'board', 'memory', 'psu', 'storage', 'system'))
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "regions" (
	"code" text PRIMARY KEY NOT NULL,
	"name" text,
	"currency" text NOT NULL,
	"tax_included" boolean NOT NULL,
	"tax_rate" double precision,
	"tariff_per_kwh" double precision,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "reports" (
	"id" text PRIMARY KEY NOT NULL,
	"review_id" text NOT NULL,
	"slug" text NOT NULL,
	"version" integer NOT NULL,
	"schema_version" integer NOT NULL,
	"method_version" integer NOT NULL,
	"published_at" timestamp (3) with time zone NOT NULL,
	"published_by" text NOT NULL,
	"embargo_until" timestamp (3) with time zone,
	"snapshot" jsonb NOT NULL,
	CONSTRAINT "reports_slug_version_unique" UNIQUE("slug","version")
);
--> statement-breakpoint
CREATE TABLE "review_setups" (
	"review_id" text NOT NULL,
	"setup_id" text NOT NULL,
	"position" integer NOT NULL,
	"role" text,
	"extra" jsonb,
	CONSTRAINT "review_setups_review_id_setup_id_pk" PRIMARY KEY("review_id","setup_id"),
	CONSTRAINT "review_setups_reviewId_position_unique" UNIQUE("review_id","position"),
	CONSTRAINT "review_setups_role" CHECK ("role" in ('subject', 'peer', 'owned'))
);
--> statement-breakpoint
CREATE TABLE "reviews" (
	"id" text PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"question_kind" text,
	"question" text,
	"baseline_setup_id" text NOT NULL,
	"suite_id" text,
	"margin" double precision,
	"low_school" text,
	"price_rule" text,
	"embargo_until" timestamp (3) with time zone,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "reviews_low_school" CHECK ("low_school" in ('percentile', 'tail_mean', 'time_share'))
);
--> statement-breakpoint
CREATE TABLE "run_statistics" (
	"run_id" text PRIMARY KEY NOT NULL,
	"method_version" integer NOT NULL,
	"frames" jsonb,
	"pacing" jsonb,
	"energy" jsonb
);
--> statement-breakpoint
CREATE TABLE "run_values" (
	"run_id" text NOT NULL,
	"metric" text NOT NULL,
	"value" double precision NOT NULL,
	"unit" text NOT NULL,
	"at" text,
	"distance_m" double precision,
	"background_dba" double precision,
	"instrument" text,
	"extra" jsonb,
	CONSTRAINT "run_values_runId_metric_at_distanceM_instrument_unique" UNIQUE NULLS NOT DISTINCT("run_id","metric","at","distance_m","instrument"),
	CONSTRAINT "run_values_at" CHECK ("at" in ('device', 'package', 'wall'))
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" text PRIMARY KEY NOT NULL,
	"setup_id" text NOT NULL,
	"test_id" text NOT NULL,
	"test_version" integer NOT NULL,
	"number" integer NOT NULL,
	"session_id" text,
	"mount_id" text,
	"block" text,
	"started_at" timestamp (3) with time zone,
	"ended_at" timestamp (3) with time zone,
	"ambient_c" double precision,
	"status" text NOT NULL,
	"reason" text,
	"source_sha256" text,
	"note" text,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "runs_setupId_testId_testVersion_number_unique" UNIQUE("setup_id","test_id","test_version","number"),
	CONSTRAINT "runs_status" CHECK ("status" in ('valid', 'discarded', 'failed')),
	CONSTRAINT "runs_reason" CHECK ("runs"."status" = 'valid' or "runs"."reason" is not null)
);
--> statement-breakpoint
CREATE TABLE "samples" (
	"id" text PRIMARY KEY NOT NULL,
	"part_id" text NOT NULL,
	"label" text NOT NULL,
	"source" text,
	"extra" jsonb
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"bench_id" text NOT NULL,
	"bench_revision" integer NOT NULL,
	"operator" text,
	"started_at" timestamp (3) with time zone,
	"ambient_c" double precision,
	"extra" jsonb
);
--> statement-breakpoint
CREATE TABLE "setup_parts" (
	"setup_id" text NOT NULL,
	"part_id" text NOT NULL,
	"sample_id" text,
	"role" text NOT NULL,
	"slot" text,
	"quantity" integer,
	"under_test" boolean NOT NULL,
	"extra" jsonb,
	CONSTRAINT "setup_parts_setupId_partId_role_slot_unique" UNIQUE NULLS NOT DISTINCT("setup_id","part_id","role","slot")
);
--> statement-breakpoint
CREATE TABLE "setup_state" (
	"setup_id" text NOT NULL,
	"key" text NOT NULL,
	"value" text NOT NULL,
	"unit" text,
	"extra" jsonb,
	CONSTRAINT "setup_state_setup_id_key_pk" PRIMARY KEY("setup_id","key")
);
--> statement-breakpoint
CREATE TABLE "setups" (
	"id" text PRIMARY KEY NOT NULL,
	"bench_id" text NOT NULL,
	"bench_revision" integer NOT NULL,
	"label" text NOT NULL,
	"extra" jsonb
);
--> statement-breakpoint
CREATE TABLE "suite_tests" (
	"suite_id" text NOT NULL,
	"test_id" text NOT NULL,
	"test_version" integer NOT NULL,
	"runs" integer NOT NULL,
	"position" integer NOT NULL,
	"extra" jsonb,
	CONSTRAINT "suite_tests_suite_id_test_id_test_version_pk" PRIMARY KEY("suite_id","test_id","test_version"),
	CONSTRAINT "suite_tests_runs" CHECK ("suite_tests"."runs" >= 1)
);
--> statement-breakpoint
CREATE TABLE "suites" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"extra" jsonb,
	"row_version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tests" (
	"id" text NOT NULL,
	"version" integer NOT NULL,
	"workload_id" text NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"unit" text NOT NULL,
	"better" text NOT NULL,
	"loads" text,
	"scene" text,
	"resolution" text,
	"render_resolution" text,
	"preset" text,
	"ray_tracing" text,
	"upscaling" text,
	"frame_generation" text,
	"api" text,
	"cache" text,
	"start_at" text,
	"stop_at" text,
	"load_s" double precision,
	"warmup_s" double precision,
	"length_s" double precision,
	"reset_s" double precision,
	"ladder_id" text,
	"level" double precision,
	"definition" text,
	"extra" jsonb,
	CONSTRAINT "tests_id_version_pk" PRIMARY KEY("id","version"),
	CONSTRAINT "tests_kind" CHECK ("kind" in ('frames', 'time', 'score', 'rate', 'soak', 'sound')),
	CONSTRAINT "tests_better" CHECK ("better" in ('higher', 'lower', 'none'))
);
--> statement-breakpoint
CREATE TABLE "trace_edits" (
	"run_id" text NOT NULL,
	"from_s" double precision NOT NULL,
	"to_s" double precision NOT NULL,
	"reason" text NOT NULL,
	"who" text,
	"at" timestamp (3) with time zone,
	"undone_at" timestamp (3) with time zone,
	"extra" jsonb,
	CONSTRAINT "trace_edits_runId_fromS_toS_at_unique" UNIQUE NULLS NOT DISTINCT("run_id","from_s","to_s","at"),
	CONSTRAINT "trace_edits_span" CHECK ("trace_edits"."to_s" > "trace_edits"."from_s")
);
--> statement-breakpoint
CREATE TABLE "traces" (
	"run_id" text NOT NULL,
	"log" text NOT NULL,
	"position" integer NOT NULL,
	"channel" text NOT NULL,
	"unit" text NOT NULL,
	"codec" text NOT NULL,
	"count" integer NOT NULL,
	"sha256" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "traces_run_id_log_position_pk" PRIMARY KEY("run_id","log","position"),
	CONSTRAINT "traces_runId_log_channel_unit_unique" UNIQUE("run_id","log","channel","unit"),
	CONSTRAINT "traces_log" CHECK ("log" in ('frames', 'sensors'))
);
--> statement-breakpoint
CREATE TABLE "workloads" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"group" text NOT NULL,
	"data_set" text,
	"sha256" text,
	"extra" jsonb
);
--> statement-breakpoint
ALTER TABLE "bench_parts" ADD CONSTRAINT "bench_parts_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bench_parts" ADD CONSTRAINT "bench_parts_bench_id_revision_benches_id_revision_fk" FOREIGN KEY ("bench_id","revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bench_state" ADD CONSTRAINT "bench_state_bench_id_revision_benches_id_revision_fk" FOREIGN KEY ("bench_id","revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bench_twins" ADD CONSTRAINT "bench_twins_bench_id_revision_benches_id_revision_fk" FOREIGN KEY ("bench_id","revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bench_twins" ADD CONSTRAINT "bench_twins_twin_bench_id_twin_revision_benches_id_revision_fk" FOREIGN KEY ("twin_bench_id","twin_revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "claims" ADD CONSTRAINT "claims_review_id_reviews_id_fk" FOREIGN KEY ("review_id") REFERENCES "public"."reviews"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mounts" ADD CONSTRAINT "mounts_setup_id_setups_id_fk" FOREIGN KEY ("setup_id") REFERENCES "public"."setups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "offers" ADD CONSTRAINT "offers_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "offers" ADD CONSTRAINT "offers_region_regions_code_fk" FOREIGN KEY ("region") REFERENCES "public"."regions"("code") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "opinions" ADD CONSTRAINT "opinions_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_contents" ADD CONSTRAINT "part_contents_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_contents" ADD CONSTRAINT "part_contents_contains_part_id_parts_id_fk" FOREIGN KEY ("contains_part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_specs" ADD CONSTRAINT "part_specs_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reports" ADD CONSTRAINT "reports_review_id_reviews_id_fk" FOREIGN KEY ("review_id") REFERENCES "public"."reviews"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "review_setups" ADD CONSTRAINT "review_setups_review_id_reviews_id_fk" FOREIGN KEY ("review_id") REFERENCES "public"."reviews"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "review_setups" ADD CONSTRAINT "review_setups_setup_id_setups_id_fk" FOREIGN KEY ("setup_id") REFERENCES "public"."setups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reviews" ADD CONSTRAINT "reviews_suite_id_suites_id_fk" FOREIGN KEY ("suite_id") REFERENCES "public"."suites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_statistics" ADD CONSTRAINT "run_statistics_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_values" ADD CONSTRAINT "run_values_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_setup_id_setups_id_fk" FOREIGN KEY ("setup_id") REFERENCES "public"."setups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_session_id_sessions_id_fk" FOREIGN KEY ("session_id") REFERENCES "public"."sessions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_mount_id_mounts_id_fk" FOREIGN KEY ("mount_id") REFERENCES "public"."mounts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_test_id_test_version_tests_id_version_fk" FOREIGN KEY ("test_id","test_version") REFERENCES "public"."tests"("id","version") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "samples" ADD CONSTRAINT "samples_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_bench_id_bench_revision_benches_id_revision_fk" FOREIGN KEY ("bench_id","bench_revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setup_parts" ADD CONSTRAINT "setup_parts_setup_id_setups_id_fk" FOREIGN KEY ("setup_id") REFERENCES "public"."setups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setup_parts" ADD CONSTRAINT "setup_parts_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setup_parts" ADD CONSTRAINT "setup_parts_sample_id_samples_id_fk" FOREIGN KEY ("sample_id") REFERENCES "public"."samples"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setup_state" ADD CONSTRAINT "setup_state_setup_id_setups_id_fk" FOREIGN KEY ("setup_id") REFERENCES "public"."setups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setups" ADD CONSTRAINT "setups_bench_id_bench_revision_benches_id_revision_fk" FOREIGN KEY ("bench_id","bench_revision") REFERENCES "public"."benches"("id","revision") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "suite_tests" ADD CONSTRAINT "suite_tests_suite_id_suites_id_fk" FOREIGN KEY ("suite_id") REFERENCES "public"."suites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "suite_tests" ADD CONSTRAINT "suite_tests_test_id_test_version_tests_id_version_fk" FOREIGN KEY ("test_id","test_version") REFERENCES "public"."tests"("id","version") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tests" ADD CONSTRAINT "tests_workload_id_workloads_id_fk" FOREIGN KEY ("workload_id") REFERENCES "public"."workloads"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trace_edits" ADD CONSTRAINT "trace_edits_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "traces" ADD CONSTRAINT "traces_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "audit_subject_index" ON "audit" USING btree ("subject");--> statement-breakpoint
CREATE INDEX "offers_part_id_region_index" ON "offers" USING btree ("part_id","region");--> statement-breakpoint
CREATE INDEX "runs_test_id_test_version_index" ON "runs" USING btree ("test_id","test_version");--> statement-breakpoint
-- Written by hand below this line.
-- A review's baseline is one of its setups; the two rows name each other, so the check waits for the commit.
ALTER TABLE "reviews" ADD CONSTRAINT "reviews_baseline_is_a_row" FOREIGN KEY ("id", "baseline_setup_id")
  REFERENCES "review_setups" ("review_id", "setup_id") DEFERRABLE INITIALLY DEFERRED;--> statement-breakpoint
-- Traces are compact already: TOAST compression gains nothing and costs time.
ALTER TABLE "traces" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;--> statement-breakpoint
-- Records are never edited: a new bench revision, test version or report supersedes the old one.
CREATE FUNCTION "refuse_change"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'rows of % are records and are never changed', TG_TABLE_NAME USING ERRCODE = 'integrity_constraint_violation';
END $$;--> statement-breakpoint
CREATE TRIGGER "benches_are_records" BEFORE UPDATE OR DELETE ON "benches" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "bench_parts_are_records" BEFORE UPDATE OR DELETE ON "bench_parts" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "bench_state_is_a_record" BEFORE UPDATE OR DELETE ON "bench_state" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "tests_are_records" BEFORE UPDATE OR DELETE ON "tests" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "traces_are_records" BEFORE UPDATE OR DELETE ON "traces" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "reports_are_frozen" BEFORE UPDATE OR DELETE ON "reports" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
INSERT INTO "people" ("id", "name", "role") VALUES
  ('operator', 'Runa', 'operator'), ('editor', 'Idris', 'editor'), ('second-editor', 'Maely', 'editor');

CREATE TABLE "declared_differences" (
	"review_id" text NOT NULL,
	"property" text NOT NULL,
	"decision" text NOT NULL,
	"why" text NOT NULL,
	"who" text NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "declared_differences_review_id_property_pk" PRIMARY KEY("review_id","property"),
	CONSTRAINT "declared_differences_decision" CHECK ("decision" in ('declared', 'split'))
);
--> statement-breakpoint
CREATE TABLE "instrument_hosts" (
	"address" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"added_by" text NOT NULL,
	"added_at" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lab_settings" (
	"id" text PRIMARY KEY NOT NULL,
	"hours" jsonb NOT NULL,
	"row_version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "review_plans" (
	"review_id" text NOT NULL,
	"number" integer NOT NULL,
	"choices" jsonb NOT NULL,
	"plan" jsonb NOT NULL,
	"planned_seconds" double precision NOT NULL,
	"planned_sd" double precision NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "review_plans_review_id_number_pk" PRIMARY KEY("review_id","number")
);
--> statement-breakpoint
CREATE TABLE "sheet_events" (
	"review_id" text NOT NULL,
	"plan_number" integer NOT NULL,
	"bench_id" text NOT NULL,
	"sequence" integer NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"who" text NOT NULL,
	"step_key" text NOT NULL,
	"kind" text NOT NULL,
	"text" text,
	"run_id" text,
	"pace" double precision NOT NULL,
	CONSTRAINT "sheet_events_review_id_plan_number_bench_id_sequence_pk" PRIMARY KEY("review_id","plan_number","bench_id","sequence"),
	CONSTRAINT "sheet_events_kind" CHECK ("kind" in ('start', 'done', 'failed', 'skipped', 'rerun', 'note', 'check', 'acknowledge', 'undo'))
);
--> statement-breakpoint
CREATE TABLE "step_times" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"review_id" text NOT NULL,
	"plan_number" integer NOT NULL,
	"bench_id" text NOT NULL,
	"activity" text NOT NULL,
	"detail" text NOT NULL,
	"seconds" double precision NOT NULL
);
--> statement-breakpoint
ALTER TABLE "declared_differences" ADD CONSTRAINT "declared_differences_review_id_reviews_id_fk" FOREIGN KEY ("review_id") REFERENCES "public"."reviews"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "review_plans" ADD CONSTRAINT "review_plans_review_id_reviews_id_fk" FOREIGN KEY ("review_id") REFERENCES "public"."reviews"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet_events" ADD CONSTRAINT "sheet_events_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet_events" ADD CONSTRAINT "sheet_events_review_id_plan_number_review_plans_review_id_number_fk" FOREIGN KEY ("review_id","plan_number") REFERENCES "public"."review_plans"("review_id","number") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "step_times" ADD CONSTRAINT "step_times_review_id_plan_number_review_plans_review_id_number_fk" FOREIGN KEY ("review_id","plan_number") REFERENCES "public"."review_plans"("review_id","number") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- Written by hand below this line.
-- What was planned and what happened are records: a new plan supersedes the old one, an event is taken back by another.
CREATE TRIGGER "review_plans_are_records" BEFORE UPDATE OR DELETE ON "review_plans" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
CREATE TRIGGER "sheet_events_are_records" BEFORE UPDATE OR DELETE ON "sheet_events" FOR EACH ROW EXECUTE FUNCTION "refuse_change"();--> statement-breakpoint
INSERT INTO "lab_settings" ("id", "hours") VALUES ('lab', '{"timeZone":"Europe/Oslo","week":[{"weekday":1,"opensMinute":540,"closesMinute":1080},{"weekday":2,"opensMinute":540,"closesMinute":1080},{"weekday":3,"opensMinute":540,"closesMinute":1080},{"weekday":4,"opensMinute":540,"closesMinute":1080},{"weekday":5,"opensMinute":540,"closesMinute":1080}],"daysOff":[]}');

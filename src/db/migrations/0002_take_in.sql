CREATE TABLE "check_settings" (
	"id" text PRIMARY KEY NOT NULL,
	"thresholds" jsonb NOT NULL,
	"row_version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "import_profiles" (
	"fingerprint" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"shape" jsonb NOT NULL,
	"uses" jsonb NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "intake_files" (
	"intake_id" text NOT NULL,
	"path" text NOT NULL,
	"stamp" text NOT NULL,
	"setup_id" text NOT NULL,
	"test_id" text NOT NULL,
	"test_version" integer NOT NULL,
	"number" integer NOT NULL,
	"state" text NOT NULL,
	"reason" text,
	"run_id" text,
	CONSTRAINT "intake_files_intake_id_path_pk" PRIMARY KEY("intake_id","path"),
	CONSTRAINT "intake_files_state" CHECK ("state" in ('waiting', 'stored', 'present', 'refused'))
);
--> statement-breakpoint
CREATE TABLE "intakes" (
	"id" text PRIMARY KEY NOT NULL,
	"label" text NOT NULL,
	"state" text NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp (3) with time zone NOT NULL,
	"ended_at" timestamp (3) with time zone,
	CONSTRAINT "intakes_state" CHECK ("state" in ('open', 'done', 'cancelled'))
);
--> statement-breakpoint
CREATE TABLE "path_patterns" (
	"template" text PRIMARY KEY NOT NULL,
	"meanings" jsonb NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "run_statistics" ADD COLUMN "facts" jsonb;--> statement-breakpoint
ALTER TABLE "intake_files" ADD CONSTRAINT "intake_files_intake_id_intakes_id_fk" FOREIGN KEY ("intake_id") REFERENCES "public"."intakes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_files" ADD CONSTRAINT "intake_files_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- Written by hand below this line.
INSERT INTO "check_settings" ("id", "thresholds") VALUES ('lab', '{}');

CREATE TABLE "jobs" (
	"id" text PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"title" text NOT NULL,
	"request" jsonb NOT NULL,
	"state" text NOT NULL,
	"progress" real DEFAULT 0 NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"worker" text,
	"lease_until" timestamp with time zone,
	"error" text,
	"result" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pieces" (
	"key" text PRIMARY KEY NOT NULL,
	"hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "results" (
	"hash" text NOT NULL,
	"position" integer NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "results_hash_position_pk" PRIMARY KEY("hash","position")
);
--> statement-breakpoint
CREATE INDEX "jobs_state_lease_until_index" ON "jobs" USING btree ("state","lease_until");--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_key_index" ON "jobs" USING btree ("key") WHERE state in ('waiting', 'running', 'done');--> statement-breakpoint
CREATE FUNCTION tell_of_job() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN PERFORM pg_notify('oscillum_jobs', NEW.id); RETURN NULL; END $$;--> statement-breakpoint
CREATE TRIGGER job_changed AFTER INSERT OR UPDATE ON "jobs" FOR EACH ROW EXECUTE FUNCTION tell_of_job();

DROP INDEX "jobs_state_lease_until_index";--> statement-breakpoint
DROP INDEX "jobs_key_index";--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "queued" uuid;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "ended" text;--> statement-breakpoint
UPDATE "jobs" SET "ended" = "state" WHERE "state" IN ('done', 'failed', 'cancelled');--> statement-breakpoint
-- The bell of the old queue; jobs that wait or run are put into the new one when the server starts.
DO $$ BEGIN
  IF to_regclass('pgboss.queue') IS NOT NULL THEN PERFORM pgboss.delete_queue('oscillum-jobs'); END IF;
END $$;--> statement-breakpoint
CREATE INDEX "jobs_going" ON "jobs" USING btree ("created_at") WHERE ended is null;--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_key_index" ON "jobs" USING btree ("key") WHERE ended is null or ended = 'done';--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "state";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "attempts";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "worker";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "lease_until";
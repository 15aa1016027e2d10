ALTER TABLE "shots" ADD COLUMN "name" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "character_name" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "clip" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "parts" integer NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "frames" integer NOT NULL DEFAULT 0;--> statement-breakpoint
-- Documents of older versions call their parts chains.
UPDATE "shots" SET
  "name" = coalesce("document"->>'name', ''),
  "character_name" = coalesce("document"->'character'->>'fileName', ''),
  "clip" = coalesce("document"->'clip'->>'name', ''),
  "parts" = (SELECT count(*) FROM jsonb_object_keys(
    CASE WHEN jsonb_typeof("document"->'parts') = 'object' THEN "document"->'parts' ELSE '{}' END)),
  "frames" = coalesce(("document"->'range'->>'last')::numeric::int - ("document"->'range'->>'first')::numeric::int + 1, 0);--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "name" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "character_name" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "clip" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "parts" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "frames" DROP DEFAULT;--> statement-breakpoint
CREATE INDEX "shots_listed" ON "shots" USING btree ("updated_at" DESC NULLS LAST,"id") WHERE deleted_at is null;

ALTER TABLE "shots" ADD COLUMN "name" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "character_name" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "clip" text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "parts" integer NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "frames" integer NOT NULL DEFAULT 0;--> statement-breakpoint
-- The oldest documents keep their parts in a list.
UPDATE "shots" SET
  "name" = coalesce("document"->>'name', ''),
  "character_name" = coalesce("document"->'character'->>'fileName', ''),
  "clip" = coalesce("document"->'clip'->>'name', ''),
  "parts" = CASE jsonb_typeof("document"->'parts')
    WHEN 'object' THEN (SELECT count(*) FROM jsonb_object_keys("document"->'parts'))
    WHEN 'array' THEN jsonb_array_length("document"->'parts')
    ELSE 0 END,
  "frames" = coalesce(("document"->'range'->>'last')::numeric::int - ("document"->'range'->>'first')::numeric::int + 1, 0);--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "name" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "character_name" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "clip" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "parts" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "shots" ALTER COLUMN "frames" DROP DEFAULT;--> statement-breakpoint
CREATE INDEX "shots_listed" ON "shots" USING btree ("updated_at" DESC NULLS LAST,"id") WHERE deleted_at is null;

ALTER TABLE "characters" ADD COLUMN "unit" jsonb DEFAULT '{"metres":1,"why":"metres, as its format says"}'::jsonb NOT NULL;--> statement-breakpoint
UPDATE "characters" SET "unit" = '{"metres":0.01,"why":"centimetres, as most BVH files are"}'::jsonb WHERE "file_name" ILIKE '%.bvh';

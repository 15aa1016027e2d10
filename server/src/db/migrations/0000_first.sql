CREATE TABLE "character_chunks" (
	"upload" text NOT NULL,
	"position" integer NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "character_chunks_upload_position_pk" PRIMARY KEY("upload","position")
);
--> statement-breakpoint
CREATE TABLE "characters" (
	"hash" text PRIMARY KEY NOT NULL,
	"file_name" text NOT NULL,
	"bytes" bigint NOT NULL,
	"joints" integer NOT NULL,
	"clips" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "edits" (
	"shot_id" text NOT NULL,
	"revision" integer NOT NULL,
	"edit_id" text NOT NULL,
	"edit" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "edits_shot_id_revision_pk" PRIMARY KEY("shot_id","revision"),
	CONSTRAINT "edits_shotId_editId_unique" UNIQUE("shot_id","edit_id")
);
--> statement-breakpoint
CREATE TABLE "shots" (
	"id" text PRIMARY KEY NOT NULL,
	"character_hash" text NOT NULL,
	"document" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"deleted_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shots" ADD CONSTRAINT "shots_character_hash_characters_hash_fk" FOREIGN KEY ("character_hash") REFERENCES "public"."characters"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "shots_character_hash_index" ON "shots" USING btree ("character_hash");
CREATE TABLE "map_blocks" (
	"hash" text PRIMARY KEY NOT NULL,
	"data" "bytea" NOT NULL
);

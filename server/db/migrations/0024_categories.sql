CREATE TABLE "category" (
	"key" text PRIMARY KEY NOT NULL,
	"picture" text NOT NULL
);

-- How many files a reference stands for (frames, tiles), and the numbers that are missing between them, with blanks between.

ALTER TABLE reference_row ADD COLUMN targets int NOT NULL DEFAULT 1;
ALTER TABLE reference_row ADD COLUMN gaps text NOT NULL DEFAULT '';

/**
 * Writes docs/schema/ from the Zod schema of the study file. With --check it only says whether the files are current.
 */
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { z } from "zod";
import { studySchema } from "../src/core/study/schema";

const file = "docs/schema/study.schema.json";
const schema = z.toJSONSchema(studySchema, { target: "draft-2020-12", io: "input" });
const text = `${JSON.stringify({ title: "Trialmoor study file, version 1", ...schema }, null, 2)}\n`;
if (process.argv.includes("--check")) {
  if (readFileSync(file, "utf8") !== text) {
    console.error(`${file} is not what the schema says; run: npx tsx scripts/schema.ts`);
    process.exit(1);
  }
} else {
  mkdirSync("docs/schema", { recursive: true });
  writeFileSync(file, text);
}

import { Validator } from "@seriousme/openapi-schema-validator";
import { describe, expect, it } from "vitest";
import { openQuestions } from "@/core/questions";
import { openApi } from "./openapi";
import { operations } from "./operations";

interface Described {
  operationId: string;
  summary: string;
  requestBody?: { content: Record<string, { schema: object }> };
  responses: Record<string, { content?: Record<string, { schema?: object }> }>;
}

const document = openApi() as unknown as {
  openapi: string;
  paths: Record<string, Record<string, Described>>;
  components: { schemas: Record<string, object> };
};
const all = Object.values(document.paths).flatMap((p) => Object.values(p));

describe("the description of the HTTP interface", () => {
  it("is OpenAPI 3.1 by a validator of its own", async () => {
    const validator = new Validator();
    const { valid, errors } = await validator.validate(JSON.parse(JSON.stringify(document)));
    expect(errors).toBeUndefined();
    expect([valid, validator.version]).toEqual([true, "3.1"]);
  });
  it("names every operation once and says what each takes and answers", () => {
    const ids = all.map((o) => o.operationId);
    expect(new Set(ids).size).toBe(ids.length);
    expect(ids).toHaveLength(operations.length);
    for (const o of all) {
      for (const [status, { content }] of Object.entries(o.responses))
        expect(
          Object.values(content ?? {}).every((c) => Object.keys(c.schema ?? {}).length > 0),
          `${o.operationId} ${status}`,
        ).toBe(true);
      expect(o.summary.length).toBeGreaterThan(5);
    }
    for (const q of openQuestions()) expect(ids).toContain(q.id);
  });
  it("refers only to what it holds", () => {
    const refs = [...JSON.stringify(document).matchAll(/"\$ref":"([^"]+)"/g)].map(([, r]) => r);
    expect(refs.length).toBeGreaterThan(40);
    for (const ref of new Set(refs)) {
      expect(ref).toMatch(/^#\/components\/schemas\//);
      expect(document.components.schemas).toHaveProperty([ref.split("/").at(-1) ?? ""]);
    }
  });
});

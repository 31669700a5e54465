// The typed client of the HTTP interface, made from its description; every answer is held against its schema there.
import Ajv from "ajv/dist/2020.js";
import createClient, { type Client } from "openapi-fetch";
import type { paths } from "./api.gen";
import { expect } from "./help";

interface Described {
  responses: Record<string, { content?: Record<string, { schema: object }> }>;
}
interface Description {
  paths: Record<string, Record<string, Described>>;
  components: object;
}

/** A client of the server at an address; an answer that is not as described fails the test. */
export async function describedClient(base: string): Promise<Client<paths>> {
  const description = (await (await fetch(`${base}/api/openapi.json`)).json()) as Description;
  const ajv = new Ajv({ strict: false, allErrors: true });
  ajv.addSchema({ $id: "api", components: description.components });
  const known = new Map<string, ReturnType<typeof ajv.compile>>();
  const check = (key: string, schema: object): ReturnType<typeof ajv.compile> => {
    const text = JSON.stringify(schema).replaceAll('"#/components', '"api#/components');
    const made = known.get(key) ?? ajv.compile(JSON.parse(text) as object);
    known.set(key, made);
    return made;
  };
  const api = createClient<paths>({ baseUrl: base });
  api.use({
    async onResponse({ request, response, schemaPath }) {
      const method = request.method.toLowerCase();
      const place = `${method} ${schemaPath} ${response.status}`;
      const content = description.paths[schemaPath]?.[method]?.responses[response.status]?.content;
      expect(content, `${place} is described`).toBeDefined();
      const type = (response.headers.get("content-type") ?? "").split(";")[0];
      const schema = content?.[type]?.schema;
      expect(schema, `${place} as ${type} is described`).toBeDefined();
      if (schema && type.endsWith("json")) {
        const fits = check(`${place} ${type}`, schema);
        const body: unknown = await response.clone().json();
        expect(fits(body) ? [] : (fits.errors ?? []).slice(0, 4), place).toEqual([]);
      }
      return undefined;
    },
  });
  return api;
}

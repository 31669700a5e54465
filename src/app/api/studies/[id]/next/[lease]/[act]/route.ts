import type * as z from "zod";
import { PRINTED } from "@/server/guard";
import { answerSchema, failSchema, renewLease, type Sent, takeFailure, takeResults } from "@/server/lending";
import { bodyOf, keyOf, Problem, textOf } from "@/server/problem";
import { route } from "@/server/route";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; lease: string; act: string }>;
}

/** What a program printed, as it is, or data. */
async function sentIn<S extends z.ZodType>(request: Request, schema: S): Promise<Sent<z.output<S>>> {
  return PRINTED.test(request.headers.get("content-type") ?? "")
    ? { text: await textOf(request) }
    : { data: await bodyOf(request, schema) };
}

/** What may come of a lease. */
const ACTS: Record<string, (request: Request, id: string, lease: string) => Promise<object>> = {
  async results(request, id, lease) {
    const sent = await sentIn(request, answerSchema);
    return takeResults(id, lease, sent, (holder) => whoOf(request, holder), keyOf(request));
  },
  async fail(request, id, lease) {
    const sent = await sentIn(request, failSchema);
    const reason = "text" in sent ? sent.text.trim() || "it failed without a word" : sent.data.reason;
    return takeFailure(id, lease, reason, (holder) => whoOf(request, holder), keyOf(request));
  },
  renew: (_request, id, lease) => renewLease(id, lease),
};

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const { id, lease, act } = await params;
    if (!Object.hasOwn(ACTS, act))
      throw new Problem("no-address", { address: `/api/studies/${id}/next/${lease}/${act}` });
    return ACTS[act](request, id, lease);
  },
});

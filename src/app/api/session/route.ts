import { CLIENT, sessionOf } from "@/server/access/session";
import { FORGET, signIn, signInByKey, signOut, tokenIn } from "@/server/access/sessions";
import { signInSchema } from "@/server/operations";
import { bodyOf, Problem } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

/** Nothing to say but what the browser is to remember. */
const remember = (cookie: string): Response => new Response(null, { status: 204, headers: { "set-cookie": cookie } });

export const { GET, POST, PUT, PATCH, DELETE } = route({
  async GET(request) {
    const session = sessionOf(request.headers);
    if (!session) throw new Problem("no-session", {});
    return session;
  },
  async POST(request) {
    const asked = await bodyOf(request, signInSchema);
    const before = tokenIn(request.headers.get("cookie") ?? undefined);
    const client = request.headers.get(CLIENT) ?? "";
    const begun =
      "key" in asked
        ? await signInByKey(asked.key, before)
        : await signIn(asked.passphrase, asked.name, client, before);
    return remember(begun.cookie);
  },
  async DELETE(request) {
    const token = tokenIn(request.headers.get("cookie") ?? undefined);
    if (token !== undefined) await signOut(token);
    return remember(FORGET);
  },
});

import { headers } from "next/headers";
import { sessionOf } from "@/server/access/session";
import { LoginStation } from "@/stations/login/station";

export const dynamic = "force-dynamic";

/** Shown at whatever address somebody asked for that the server does not let in; told who they are, where it knows. */
export default async function Page() {
  return <LoginStation known={sessionOf(await headers())?.name} />;
}

import * as z from "zod";
import { faultsAside } from "@/server/pool";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  async POST(request) {
    const faults = await faultsAside(await bodyOf(request, z.unknown()));
    return { ok: faults.length === 0, faults };
  },
});

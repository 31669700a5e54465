import { headers } from "next/headers";
import { reachedAt } from "@/server/access/opening";
import { originOf } from "@/server/access/session";
import { Paper } from "@/stations/paper/paper";
import { Damaged } from "@/ui/shell/damaged";
import { findStudy } from "../find";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ wave?: string; as?: string; size?: string; only?: string }>;
}

/** A wave on paper: run sheets, or a card for each trial. */
export default async function Page({ params, searchParams }: Props) {
  const { id } = await params;
  const found = await findStudy(id);
  if (typeof found === "string") return <Damaged id={id} why={found} />;
  const { wave, as, size, only } = await searchParams;
  const { waves, trials } = found.study;
  // Unless one is asked for: the wave that waits, else the last that has trials.
  const about =
    waves.find((w) => w.id === wave) ??
    waves.find((w) => trials.some((t) => t.wave === w.id && t.state === "planned")) ??
    waves.findLast((w) => trials.some((t) => t.wave === w.id));
  const { origin, here } = reachedAt(originOf(await headers()));
  return (
    <Paper
      id={id}
      study={found.study}
      wave={about}
      as={as === "cards" ? "cards" : "sheet"}
      size={size === "letter" ? "letter" : "a4"}
      origin={origin}
      here={here}
      only={only === "left" ? "left" : "all"}
    />
  );
}

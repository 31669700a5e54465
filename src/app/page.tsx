import { readRetention } from "@/server/retention";
import { exampleNames, listDeleted, listStudies } from "@/server/studies";
import { HomeStation } from "@/stations/home/station";

export const dynamic = "force-dynamic";

/** Studies that Home shows unless all are asked for. */
const MOST_SHOWN = 60;

export default async function Page({ searchParams }: { searchParams: Promise<{ all?: string }> }) {
  const studies = await listStudies();
  const all = (await searchParams).all !== undefined;
  return (
    <HomeStation
      studies={all ? studies : studies.slice(0, MOST_SHOWN)}
      count={studies.length}
      examples={exampleNames()}
      deleted={await listDeleted()}
      deletedDays={(await readRetention()).deletedDays}
    />
  );
}

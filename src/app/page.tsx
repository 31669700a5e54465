import { exampleNames, listStudies } from "@/server/studies";
import { HomeStation } from "@/stations/home/station";

export const dynamic = "force-dynamic";

export default async function Page() {
  return <HomeStation studies={await listStudies()} examples={exampleNames()} />;
}

import { forBench, likelyRanges } from "@/core/operator";
import { BenchPage } from "@/stations/bench/page";
import { Damaged } from "@/ui/shell/damaged";
import { findStudy } from "../find";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ id: string }>;
}

/** One trial at a time, beside the machine. */
export default async function Page({ params }: Props) {
  const { id } = await params;
  const found = await findStudy(id);
  if (typeof found === "string") return <Damaged id={id} why={found} />;
  return (
    <BenchPage
      id={id}
      revision={found.revision}
      stored={JSON.stringify(forBench(found.study))}
      likely={likelyRanges(found.study)}
    />
  );
}

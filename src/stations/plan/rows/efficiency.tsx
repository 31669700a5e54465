import { figure } from "@/ui/parts/format";
import type { PlanRow } from "./row";

const share = (v: number | null | undefined): string => (v === null || v === undefined ? "–" : `${figure(v, 3)} %`);
const plain = (v: number | null | undefined): string => (v === null || v === undefined ? "–" : figure(v, 3));

export const efficiency: PlanRow = {
  key: "efficiency",
  name: "Efficiency and inflation",
  note: () => "for what is asked and can be estimated",
  Cell: ({ detail: d }) => (
    <div className="small num">
      D {share(d?.efficiency.d)} · A {share(d?.efficiency.a)} · G {share(d?.efficiency.g)}
      <br />
      variance inflated up to {plain(d?.largestVif)} · alias trace {plain(d?.aliasTrace)}
    </div>
  ),
};

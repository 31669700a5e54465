"use client";
import { Button } from "antd";
import { Pick } from "@/ui/parts/pick";
import { BestOfSize } from "./rivals/best-of-size";
import { CRITERIA, type CriterionName } from "./rivals/criteria";
import { Kept } from "./rivals/kept";
import { SubsetsChart } from "./rivals/subsets-chart";
import { useRivals } from "./rivals/use-rivals";
import type { ViewProps } from "./view";

/** All subsets in one chart, the best of each size in words, those kept side by side, and their average. */
export function RivalsView(props: ViewProps) {
  const rivals = useRivals(props);
  const { search, candidates, ordered, setBy } = rivals;
  const { running, progress, result, trouble, stop } = search;
  return (
    <div>
      <div className="row small" style={{ marginBottom: 4, flexWrap: "wrap" }}>
        <span className="grow quiet" role="status">
          {running
            ? `${progress?.text ?? "Looking at all subsets"}…`
            : result
              ? `${result.examined.toLocaleString("en")} models of ${candidates.length} terms, hierarchy kept${result.singular > 0 ? `; ${result.singular.toLocaleString("en")} that these trials cannot tell left out` : ""}.`
              : (trouble ?? "")}
        </span>
        {running && <Button onClick={stop}>Stop</Button>}
        <label className="row" style={{ gap: 4 }}>
          by
          <Pick
            label="Criterion"
            value={ordered.by}
            options={Object.entries(CRITERIA).map(([id, c]) => [id as CriterionName, c.name])}
            set={setBy}
          />
        </label>
      </div>
      <SubsetsChart rivals={rivals} />
      <BestOfSize rivals={rivals} />
      <Kept rivals={rivals} />
      {trouble && (
        <p className="small danger" role="alert">
          {trouble}
        </p>
      )}
    </div>
  );
}

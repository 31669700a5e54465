"use client";
import { Button } from "antd";
import { lazy, memo, Suspense, useState } from "react";
import type { Fit } from "@/core/model";
import { carriedFactors } from "@/core/plans";
import { type Study, significance } from "@/core/study";
import type { ReduceProps } from "./reduce-panel";

const Panel = lazy(() => import("./reduce-panel").then((m) => ({ default: m.ReducePanel })));

/** What there is to reduce, in few figures, so that it is drawn anew only when they change. */
export const reducible = (study: Study, fit: Fit): Omit<ReduceProps, "run"> => ({
  several: study.responses.length > 1,
  carried: carriedFactors(study, fit.data.trials) !== undefined,
  usual: significance(study),
});

/** Reducing; its panel is fetched when it is first asked for. */
export const Reduce = memo(function Reduce(props: ReduceProps) {
  const [wanted, setWanted] = useState(false);
  const trigger = <Button onClick={() => setWanted(true)}>Reduce</Button>;
  return wanted ? (
    <Suspense fallback={trigger}>
      <Panel {...props} />
    </Suspense>
  ) : (
    trigger
  );
});

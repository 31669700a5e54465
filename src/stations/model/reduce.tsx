"use client";
import { Button } from "antd";
import { lazy, memo, Suspense, useState } from "react";
import type { ReduceProps } from "./reduce-panel";

const Panel = lazy(() => import("./reduce-panel").then((m) => ({ default: m.ReducePanel })));

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

"use client";
import { Button } from "antd";
import { lazy, memo, Suspense, useState } from "react";
import type { FindTermProps } from "./find-term";

const FindTerm = lazy(() => import("./find-term").then((m) => ({ default: m.FindTerm })));

/** Takes in a term that has no rung of its own; what finds it is fetched when it is first asked for. */
export const AddTerm = memo(function AddTerm(props: Omit<FindTermProps, "close">) {
  const [finding, setFinding] = useState(false);
  const trigger = (
    <Button size="small" onClick={() => setFinding(true)}>
      Add a term…
    </Button>
  );
  return finding ? (
    <Suspense fallback={trigger}>
      <FindTerm {...props} close={() => setFinding(false)} />
    </Suspense>
  ) : (
    trigger
  );
});

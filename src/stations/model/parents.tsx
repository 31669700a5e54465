"use client";
import { Checkbox } from "antd";

/** Whether a term keeps the terms it is made of beside it in the model. */
export const Parents = ({ kept, keep }: { kept: boolean; keep(kept: boolean): void }) => (
  <Checkbox
    checked={kept}
    onChange={(e) => keep(e.target.checked)}
    title="An interaction keeps its main effects, a square its own. Without them what the model says depends on where the middle of each range lies."
  >
    <span className="small">keep parents</span>
  </Checkbox>
);

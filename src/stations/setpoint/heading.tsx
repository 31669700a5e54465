// biome-ignore-all lint/a11y/useAriaPropsSupportedByRole: a closed tag is named by what it frees.
"use client";
import { Button, Tag } from "antd";
import type { SetpointProblem } from "@/core/setpoint";
import { activeFactors, type Settings } from "@/core/study";
import type { Asking, Shown } from "@/ui/compute/asking";
import { useDesk } from "@/ui/desk/store";
import { percent, settingText } from "@/ui/parts/format";
import { Pick } from "@/ui/parts/pick";

/** What the probe's place is worth, which factors are held in the search, and the search itself. */
export function SetpointHeading({
  wishes: problem,
  hold,
  setHold,
  job,
  stale,
  search,
  choose,
}: {
  wishes: SetpointProblem;
  hold: readonly string[];
  setHold(factors: string[]): void;
  job: Shown<"setpoint"> & Asking<"setpoint">;
  /** Something changed since the last search. */
  stale: boolean;
  search(): void;
  choose(place: { settings: Settings }): void;
}) {
  const study = useDesk((d) => d.study);
  const probe = useDesk((d) => d.probe);
  const free = activeFactors(study).filter((f) => !hold.includes(f.id));
  return (
    <div className="row grow" style={{ flexWrap: "wrap" }}>
      <span className="quiet">
        desirability here{" "}
        <strong className="num" style={{ color: "var(--ink)", fontSize: 14 }}>
          {problem.overall(probe).toFixed(2)}
        </strong>
      </span>
      <span className="grow" />
      {hold.map((f) => {
        const factor = study.factors.find((q) => q.id === f);
        return factor ? (
          <Tag
            key={f}
            closeIcon={<span aria-label={`Free ${factor.name}`}>×</span>}
            onClose={() => setHold(hold.filter((h) => h !== f))}
          >
            {factor.name} = {settingText(probe[f])}
          </Tag>
        ) : null;
      })}
      {free.length > 0 && (
        <Pick
          label="Hold a factor at the probe"
          placeholder="hold …"
          value={undefined}
          options={free.map((f) => [f.id, `${f.name} at ${settingText(probe[f.id])}`])}
          set={(f) => setHold([...hold, f])}
        />
      )}
      <Button title="Make the probe's place the setpoint, as it stands" onClick={() => choose({ settings: probe })}>
        Choose the probe
      </Button>
      {job.running ? (
        <Button onClick={job.stop}>
          Stop · {job.progress ? `${job.progress.text} ${percent(job.progress.done)}` : "starting"}
        </Button>
      ) : (
        <Button type="primary" onClick={search}>
          {stale ? "Search again" : "Search the region"}
        </Button>
      )}
    </div>
  );
}

"use client";
import { Checkbox } from "antd";
import { LinkButton } from "@/ui/parts/link-button";
import { named, Pick } from "@/ui/parts/pick";
import { Count } from "./count";
import { OwnPlan } from "./own-plan";
import css from "./plan.module.css";
import type { Planning } from "./use-planning";

const POWERS = [0.7, 0.8, 0.9, 0.95, 0.99];

/** What plans are judged by, the order they are run in, and the ways to a plan of one's own. */
export function Judging({ planning, bring }: { planning: Planning; bring(): void }) {
  const { study, request, ask, judged, response, judgeBy, own, addOwn } = planning;
  return (
    <div className={css.key}>
      {judged.length > 0 && (
        <span className="row">
          judged by
          <Pick
            style={{ maxWidth: 150 }}
            label="judged by"
            value={response?.id}
            options={named(judged)}
            set={judgeBy}
          />
        </span>
      )}
      <span className="row">
        at power
        <Pick
          label="at power"
          className="num"
          value={String(request.power)}
          options={POWERS.map((p) => [String(p), p.toFixed(2)])}
          set={(p) => ask({ power: Number(p) })}
        />
      </span>
      <span>● tells all asked</span>
      <span>○ leaves some shared</span>
      <Checkbox
        title="The seed makes the same run order again"
        checked={!request.standardOrder}
        onChange={(e) => ask({ standardOrder: !e.target.checked })}
      >
        randomise
      </Checkbox>
      <span className={css.asks}>
        <Count label="seed" value={request.seed} least={0} most={999999} set={(seed) => ask({ seed })} />
      </span>
      <span style={{ marginLeft: "auto" }} className="row">
        <LinkButton onClick={bring}>trials run elsewhere</LinkButton>
        <OwnPlan study={study} ask={request} add={addOwn} busy={own.running} sentence={own.trouble} />
      </span>
    </div>
  );
}

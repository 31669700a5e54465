"use client";
import { Button } from "antd";
import { memo, useMemo } from "react";
import { spreadCells } from "@/core/model";
import { isUsable, kindOf, type Response, type Study } from "@/core/study";
import { useDesk, useDeskStore } from "@/ui/desk/store";
import { Toggle } from "@/ui/parts/link-button";
import { named, Pick } from "@/ui/parts/pick";
import { say } from "@/ui/parts/say";
import { addSpread } from "./actions";

/** Offers to model how much a response scatters, where something was measured again. */
function SpreadButton({ response }: { response: Response }) {
  const desk = useDeskStore();
  const trials = useDesk((d) => d.study.trials);
  const responses = useDesk((d) => d.study.responses);
  // Depends on what was measured, not on the terms that go in and out.
  const from = useMemo(
    () =>
      response.spread || !kindOf(response).rescaled
        ? undefined
        : (["repeats", "replicates"] as const).find(
            (f) =>
              !responses.some((r) => r.spread?.of === response.id && r.spread.from === f) &&
              spreadCells(desk.getState().study, response.id, f, trials.filter(isUsable)).length >= 4,
          ),
    [desk, trials, responses, response],
  );
  if (!from) return null;
  return (
    <Button
      title={
        from === "repeats"
          ? "Model the standard deviation of the repeats within trials (measurement) as a response of its own"
          : "Model the standard deviation between trials run again (process) as a response of its own"
      }
      onClick={() => {
        const { study, commit, choose } = desk.getState();
        const made = addSpread(study, response.id, from);
        const refused = commit(made.edits, `made the spread of ${response.name} a response`);
        if (refused) say(refused);
        else choose(made.id);
      }}
    >
      Model its spread
    </Button>
  );
}

/** Which response is modelled, or all of them; drawn anew only when that changes. */
export const ModelHeading = memo(function ModelHeading({
  responses,
  response,
  all,
  choose,
  showAll,
}: {
  responses: Study["responses"];
  response: Response;
  all: boolean;
  choose(id: string): void;
  showAll(all: boolean): void;
}) {
  return (
    <div className="row grow" style={{ minWidth: 0, flexWrap: "wrap" }}>
      {responses.length <= 5 ? (
        responses.map((r) => (
          <Toggle
            key={r.id}
            style={{ maxWidth: 190, overflow: "hidden", textOverflow: "ellipsis", display: "inline-block" }}
            on={!all && r.id === response.id}
            title={r.name}
            onClick={() => choose(r.id)}
          >
            {r.name}
          </Toggle>
        ))
      ) : (
        <Pick label="Response" value={response.id} options={named(responses)} set={choose} />
      )}
      <span className="grow" />
      <SpreadButton response={response} />
      {responses.length > 1 && (
        <Toggle on={all} onClick={() => showAll(!all)}>
          All responses
        </Toggle>
      )}
    </div>
  );
});

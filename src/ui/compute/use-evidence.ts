"use client";
import { useEffect, useState } from "react";
import { type StationEvidence, StudyView } from "@/core/questions";
import type { Settings, Study } from "@/core/study";
import { useDesk } from "../desk/store";
import { askSharedWorker } from "./shared-worker";

/** Of a response's model, of the ledger, or of a setpoint. */
const LEDGER = "@trials";
const SETPOINT = "@setpoint ";

const FAILED: StationEvidence = {
  checks: [],
  readings: [
    {
      id: "evidence-failed",
      kind: "caution",
      code: "evidence-failed",
      values: {},
      evidence: "checks",
      weight: 100,
    },
  ],
};

/** Works evidence out beside the page. */
const askEvidence = (view: StudyView, response: string): Promise<StationEvidence> =>
  // A model that cannot be fitted says why where its ladder would stand; it has no evidence beside that.
  askSharedWorker("evidence", view, {
    of: response.startsWith(SETPOINT)
      ? { station: "setpoint", settings: JSON.parse(response.slice(SETPOINT.length)) }
      : response === LEDGER
        ? { station: "trials" }
        : { station: "model", response },
  }).then(
    (answer) => answer ?? { checks: [], readings: [] },
    () => FAILED,
  );

/** One question at a time: while a person takes terms in and out, only the newest state waits for its turn. */
const PAUSE = 200;

/** Evidence with whether it lags behind what is on screen. */
export type Evident = StationEvidence & { late: boolean };

/**
 * Checks and readings of a response's present model; those of the last state, said to be late, until the new ones are
 * there, nothing while there are none.
 */
export function useEvidence(study: Study, response: string | undefined): Evident | undefined {
  const memo = useDesk((d) => d.memo);
  const [shown, setShown] = useState<{ study: Study; response: string; evidence: StationEvidence } | undefined>(
    undefined,
  );
  useEffect(() => {
    if (response === undefined) return;
    let over = false;
    const wait = setTimeout(
      () =>
        memo
          .get("evidence", [study, response], () => askEvidence(new StudyView(study, memo), response))
          .then((evidence) => {
            if (!over) setShown({ study, response, evidence });
          }),
      PAUSE,
    );
    return () => {
      over = true;
      clearTimeout(wait);
    };
  }, [memo, study, response]);
  return shown && shown.response === response ? { ...shown.evidence, late: shown.study !== study } : undefined;
}

/** What a setpoint rests on, of its settings; nothing without any. */
export const useSetpointDoubts = (study: Study, settings: Settings | undefined): Evident | undefined =>
  useEvidence(study, settings && `${SETPOINT}${JSON.stringify(settings)}`);

/** Readings of the ledger; those of the last state until the new ones are there. */
export const useTrialsEvidence = (study: Study): Evident | undefined => useEvidence(study, LEDGER);

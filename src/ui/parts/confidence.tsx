"use client";
import { memo } from "react";
import { readConfidence } from "@/core/formats";
import { edit } from "@/core/study";
import { useDesk, useDeskStore } from "../desk/store";
import { DraftField } from "./draft";
import { say } from "./say";

const USUAL = [90, 95, 99];
const text = (confidence: number): string => `${Number((100 * confidence).toPrecision(6))} %`;

/** The study's confidence, which intervals, rungs, cuts of reducing and powers go by: a usual one, or typed. */
export const Confidence = memo(function Confidence() {
  const confidence = useDesk((d) => d.study.confidence);
  const desk = useDeskStore();
  return (
    <span
      className="row small"
      style={{ gap: 4 }}
      title="Intervals, rungs, cuts of reducing and powers go by this confidence, in the whole study"
    >
      <span className="quiet">Confidence</span>
      <DraftField
        name="confidence"
        label="Confidence of the study"
        value={text(confidence)}
        list="usual-confidences"
        width={62}
        mono
        align="right"
        check={(typed) => {
          const read = readConfidence(typed);
          return read.ok ? undefined : read.sentence;
        }}
        take={(typed) => {
          const read = readConfidence(typed);
          if (!read.ok) {
            say(read.sentence);
            return read.sentence;
          }
          const { study, commit } = desk.getState();
          return commit([edit(study, ["confidence"], read.value)], `set the confidence to ${text(read.value)}`);
        }}
      />
      <datalist id="usual-confidences">
        {USUAL.map((c) => (
          <option key={c} value={`${c} %`} />
        ))}
      </datalist>
    </span>
  );
});

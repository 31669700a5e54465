"use client";
import { Button } from "antd";
import css from "./home.module.css";

const EXAMPLES: Record<string, { title: string; text: string }> = {
  "wool-scouring": {
    title: "Fellgate wool scouring line",
    text: "Six factors, four responses that pull apart, two waves of trials.",
  },
  "raspberry-drying": {
    title: "Raspberry freeze-drying",
    text: "Three factors, fifteen trials, a response that cannot go below zero.",
  },
  "nickel-screening": {
    title: "Nickel bath screening",
    text: "Ten factors in twenty-one trials, thickness measured at four places.",
  },
  "fish-smokehouse": {
    title: "Skerry fish smokehouse",
    text: "Smoke stays set for several racks: two errors, two waves, a setpoint that knows both.",
  },
  "horn-buttons": {
    title: "Horn button press",
    text: "What is counted: cracked buttons of 200, pits, and twelve single thicknesses a trial.",
  },
};

/** Shipped studies: opened as copies, or played from the question on. */
export const Examples = ({
  names,
  busy,
  open,
  tour,
}: {
  names: readonly string[];
  busy: boolean;
  open(name: string): void;
  tour(): void;
}) => (
  <div className={css.card}>
    <div className="row">
      <h2 className="grow">Look at an example</h2>
      <Button
        size="small"
        disabled={busy}
        title="The whole job on a made-up scouring line, from question to confirmed setpoint"
        onClick={tour}
      >
        Take the tour
      </Button>
    </div>
    {names.map((name) => (
      <div key={name} className={css.example}>
        <div>
          <strong>{EXAMPLES[name]?.title ?? name}</strong>
          <p>{EXAMPLES[name]?.text}</p>
        </div>
        <Button disabled={busy} onClick={() => open(name)}>
          Open a copy
        </Button>
      </div>
    ))}
  </div>
);

"use client";
import { Button } from "antd";
import { useEffect, useRef, useSyncExternalStore } from "react";
import css from "./bench.module.css";

/** How a field of figures is typed into: by the page's keypad on touch, by keys elsewhere. */
export const useInputMode = (): "none" | "decimal" =>
  useSyncExternalStore(
    () => () => undefined,
    () => (window.matchMedia("(hover: hover) and (pointer: fine)").matches ? "decimal" : "none"),
    () => "decimal",
  );

const KEYS = ["7", "8", "9", "4", "5", "6", "1", "2", "3", "−", "0", "."] as const;

/**
 * A text after a key of the keypad: a figure more, one less, or the other sign.
 * @param fresh nothing was pressed yet: the first figure replaces what stands, as it does where that is marked
 */
export function pressed(text: string, key: string, fresh = false): string {
  if (key === "back") return text.slice(0, -1);
  if (key === "−") return text.startsWith("-") ? text.slice(1) : `-${text}`;
  return fresh ? key : `${text}${key}`;
}

/** Figures for gloved hands; what is pressed goes into the field that is filled in. */
export function Keypad({ press, done }: { press(key: string): void; done(): void }) {
  const pad = useRef<HTMLFieldSetElement>(null);
  // The field and its keys are seen together.
  useEffect(() => {
    pad.current?.scrollIntoView({ block: "nearest" });
  }, []);
  return (
    <fieldset ref={pad} className={css.keypad} aria-label="Keypad">
      {KEYS.map((k) => (
        // The field must keep the cursor.
        <Button key={k} size="large" onMouseDown={(e) => e.preventDefault()} onClick={() => press(k)}>
          {k}
        </Button>
      ))}
      <Button
        size="large"
        aria-label="Take the last figure away"
        onMouseDown={(e) => e.preventDefault()}
        onClick={() => press("back")}
      >
        ⌫
      </Button>
      <Button size="large" type="primary" className={css.enter} onMouseDown={(e) => e.preventDefault()} onClick={done}>
        Enter
      </Button>
    </fieldset>
  );
}

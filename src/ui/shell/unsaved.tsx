"use client";
import { Button } from "antd";
import { messageText, standingText } from "@/core/findings";
import { cellAt, locationOf, valueAt } from "@/core/study";
import { useDesk } from "../desk/store";
import { Modal } from "../parts/overlays";
import { say } from "../parts/say";
import css from "./shell.module.css";

/** What could not be saved as it was: changed elsewhere at once, or refused by the server. */

/** Cells that two tabs changed at once, side by side. */
export function Clashes() {
  const study = useDesk((d) => d.study);
  const clashes = useDesk((d) => d.clashes);
  const settle = useDesk((d) => d.settle);
  if (clashes.length === 0) return null;
  const words = (value: unknown, path: readonly string[]): string => standingText(valueAt({ study }, value, path));
  return (
    <Modal open footer={null} closable={false} title="Changed here and in another tab">
      <p className="quiet" style={{ marginBottom: 10 }}>
        Nothing was overwritten. Choose what each cell shall hold.
      </p>
      {clashes.map((c) => (
        <div key={c.path.join("/")} className={css.clash}>
          <strong>{messageText("locations", locationOf({ study }, c.path))}</strong>
          <div className="row" style={{ marginTop: 6 }}>
            <Button onClick={() => settle(c, "mine")}>keep mine: {words(c.mine, c.path)}</Button>
            <Button onClick={() => settle(c, "theirs")}>keep theirs: {words(c.theirs, c.path)}</Button>
          </div>
        </div>
      ))}
    </Modal>
  );
}

const MOST_CELLS = 4;

/** Changes that the server refused, each beside what stands: to be tried again or let go. Work goes on around them. */
export function Refusals() {
  const study = useDesk((d) => d.study);
  const refused = useDesk((d) => d.refused);
  const retry = useDesk((d) => d.retry);
  const letGo = useDesk((d) => d.letGo);
  if (refused.length === 0) return null;
  const words = (value: unknown, path: readonly string[]): string => standingText(valueAt({ study }, value, path));
  return (
    <section className={css.refusals} role="alert" aria-label="Refused changes">
      <strong>
        {refused.length === 1 ? "One change was refused" : `${refused.length} changes were refused`}; all others are
        kept.
      </strong>
      {refused.map((r, i) => (
        <div key={`${i} ${r.what}`} className={css.clash}>
          <div>
            {r.what}: {r.sentence}
          </div>
          {r.edits.slice(0, MOST_CELLS).map((e) => (
            <div key={e.path.join("/")} className="small">
              <span className="quiet">{messageText("locations", locationOf({ study }, e.path))}:</span> stands{" "}
              {words(cellAt(study, e.path), e.path)}, typed {words(e.to, e.path)}
            </div>
          ))}
          {r.edits.length > MOST_CELLS && (
            <div className="small quiet">and {r.edits.length - MOST_CELLS} more cells</div>
          )}
          <div className="row" style={{ marginTop: 6 }}>
            <Button
              size="small"
              onClick={() => {
                const sentence = retry(r);
                if (sentence) say(sentence);
              }}
            >
              Try again
            </Button>
            <Button size="small" onClick={() => letGo(r)}>
              Keep what stands
            </Button>
          </div>
        </div>
      ))}
    </section>
  );
}

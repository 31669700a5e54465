"use client";
import { Button } from "antd";
import { counted, messageText, type Reading } from "@/core/findings";
import type { Offer } from "@/core/model";
import type { Fitted } from "@/core/questions";
import { type Term, termKey } from "@/core/study";

const NAMES = { p: "p", aicc: "AICc", bic: "BIC" } as const;

const keysOf = (terms: readonly Term[]): string => terms.map(termKey).sort().join("|");

/** What was offered, in one line: of how many terms asked how many are kept, and by what. */
function offerText({ candidates, kept, by, alpha, mains }: Offer): string {
  if (by)
    return `of ${counted(candidates.length, "term")} asked ${kept.length} ${kept.length === 1 ? "is" : "are"} kept, by ${NAMES[by]}${alpha === undefined ? "" : ` ${alpha}`}${mains === undefined || mains === alpha ? "" : `, main effects by ${mains}`}`;
  return candidates.every((t) => t.length === 1)
    ? `all ${counted(kept.length, "main effect")} asked`
    : `all ${counted(kept.length, "main effect")}, since so few trials leave nothing to choose by`;
}

/**
 * Where the model on screen comes from: the first offered, with a press for all that was asked and for main effects
 * alone; or one's own, and whether another would be offered now.
 */
export function Offered({
  fitted,
  warnings,
  accept,
  set,
}: {
  fitted: Fitted;
  /** What the model is warned of by how it was chosen. */
  warnings: readonly Reading[];
  accept(): void;
  set(terms: readonly Term[], what: string): void;
}) {
  const { offer, fit, chosen } = fitted;
  const row = "row small";
  const style = { gap: 6, paddingTop: 4, flexWrap: "wrap" } as const;
  const present = keysOf(fit.terms);
  const take = (terms: readonly Term[], what: string) => () => set(terms, what);
  if (chosen) {
    if (keysOf(offer.kept) === present) return null;
    return (
      <div className={row} style={style}>
        <Button size="small" onClick={take(offer.kept, "took the model first offered")}>
          Take the offer
        </Button>
        <span className="quiet">What would be offered now is another: {offerText(offer)}.</span>
      </div>
    );
  }
  const mains = offer.candidates.filter((t) => t.length === 1);
  return (
    <div className={row} style={style}>
      {warnings.map((w) => (
        <p key={w.id} className="warning" style={{ margin: 0, flexBasis: "100%" }}>
          {messageText("readings", w)}
        </p>
      ))}
      <Button size="small" type={warnings.length > 0 ? "default" : "primary"} onClick={accept}>
        Accept this model
      </Button>
      {keysOf(offer.candidates) !== present && (
        <Button size="small" onClick={take(offer.candidates, "took in all that was asked")}>
          All asked
        </Button>
      )}
      {keysOf(mains) !== present && keysOf(mains) !== keysOf(offer.candidates) && (
        <Button size="small" onClick={take(mains, "took main effects alone")}>
          Mains only
        </Button>
      )}
      <span className="quiet">Offered, not chosen yet: {offerText(offer)}.</span>
    </div>
  );
}

"use client";
import { figure } from "@/core/findings";
import type { Fit } from "@/core/model";
import type { RivalFits } from "@/core/questions";
import { alphabetOf, inModelOrder, termKey, termLetters, termName } from "@/core/study";
import { useStudyView } from "@/ui/desk/view";
import { CopyRows } from "@/ui/parts/copy-rows";
import { axisName, rounded, shareText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Pick } from "@/ui/parts/pick";
import css from "../../model.module.css";
import { setKey } from "./criteria";
import type { Rivals } from "./use-rivals";

/** Figures that kept models are held beside each other by. */
const ROWS: { name: string; of(f: Fit): string }[] = [
  { name: "coefficients", of: (f) => String(f.parameters.length) },
  { name: "R²", of: (f) => shareText(f.summary.r2) },
  { name: "adjusted", of: (f) => shareText(f.summary.r2Adjusted) },
  { name: "predicted", of: (f) => shareText(f.summary.r2Predicted) },
  { name: "s", of: (f) => (f.summary.s === null ? "–" : figure(f.summary.s, 3)) },
  { name: "AICc", of: (f) => f.summary.aicc?.toFixed(1).replace("-", "−") ?? "–" },
  { name: "BIC", of: (f) => f.summary.bic?.toFixed(1).replace("-", "−") ?? "–" },
  { name: "largest error", of: (f) => figure(Math.max(...f.trials.map((t) => Math.abs(t.residual))), 2) },
];

/** Models of one response kept side by side: their terms, figures, and what they say together. */
export function Kept({ rivals }: { rivals: Rivals }) {
  const { study, fit, about, search, ordered, stored, kept, isKept, change, keep } = rivals;
  const view = useStudyView(study);
  const found = view.rivals(fit, kept);
  return (
    <>
      <div className="row" style={{ margin: "12px 0 2px" }}>
        <h2 className="grow">Kept side by side</h2>
        {!isKept(fit.terms) && (
          <LinkButton className="small" onClick={() => keep(fit.terms)}>
            keep the present model
          </LinkButton>
        )}
        {kept.length === 0 && ordered.models.length > 1 && (
          <LinkButton
            className="small"
            title="All listed models within 2 of the best AICc, at most six"
            onClick={() => {
              const close = (search.result?.models ?? [])
                .filter((m) => m.aicc !== null && m.aicc - (search.result?.models[0].aicc ?? 0) <= 2)
                .slice(0, 6);
              change(
                close.map((m) => m.terms),
                stored?.average,
                "kept the models as good as the best",
              );
            }}
          >
            keep all as good as the best
          </LinkButton>
        )}
        {kept.length > 0 && (
          <CopyRows
            what="Rivals"
            rows={[
              ["", ...kept.map((_, i) => `model ${i + 1}`)],
              ...ROWS.map((r) => [r.name, ...found.fits.map((k) => r.of(k))]),
            ]}
          />
        )}
      </div>
      {kept.length === 0 ? (
        <p className="small quiet">
          Several models are often as good. Keep some to see them beside each other, and to average them.
        </p>
      ) : (
        <>
          <KeptTable rivals={rivals} found={found} />
          {found.fits.length > 1 && (
            <label className="row small" style={{ marginTop: 6, gap: 6, flexWrap: "wrap" }}>
              Predict {axisName(about?.name ?? "", undefined)} everywhere with
              <Pick
                label="Predict with"
                value={stored?.average ?? "one"}
                options={[
                  ["one", "the present model"],
                  ["akaike", "the average of these, by their AICc"],
                  ["equal", "the average of these, equal weights"],
                ]}
                set={(average) =>
                  change(
                    kept,
                    average === "one" ? undefined : average,
                    average === "one" ? "predicted with one model again" : "predicted with an average",
                  )
                }
              />
            </label>
          )}
        </>
      )}
    </>
  );
}

/** Coefficients of the kept models, term by term, with how much speaks for each term and its average. */
function KeptTable({
  rivals: { study, stored, kept, isHere, change, use },
  found: { fits, weights, average },
}: {
  rivals: Rivals;
  found: RivalFits;
}) {
  const alphabet = alphabetOf(study);
  const keptTerms = inModelOrder(alphabet, kept.flat());
  return (
    <div style={{ overflowX: "auto" }}>
      <table className={`${css.table} ${css.tight}`}>
        <thead>
          <tr>
            <th>term</th>
            {average && <th title="sum of the weights of the models that hold the term">evidence</th>}
            {average && <th title="coefficient averaged over the models, zeros included">average</th>}
            {kept.map((k, i) => (
              <th key={setKey(k)}>
                <LinkButton title="Use this model" onClick={() => use(k)}>
                  {i + 1}
                  {isHere(k) ? " ●" : ""}
                </LinkButton>{" "}
                <LinkButton
                  aria-label={`Let go of model ${i + 1}`}
                  onClick={() =>
                    change(
                      kept.filter((o) => o !== k),
                      stored?.average,
                      "let go of a rival model",
                    )
                  }
                >
                  ×
                </LinkButton>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {keptTerms.map((t) => {
            const key = termKey(t);
            const evidence = kept.reduce(
              (sum, k, i) => sum + (k.some((u) => termKey(u) === key) ? (weights[i] ?? 0) : 0),
              0,
            );
            const mean = average?.coefficientOf(key);
            return (
              <tr key={key}>
                <td title={termName(alphabet, t)}>{termLetters(alphabet, t)}</td>
                {average && <td>{evidence.toFixed(2)}</td>}
                {average && <td>{mean === undefined ? "" : figure(mean, 3)}</td>}
                {fits.map((f, i) => {
                  const p = f.parameters.find((q) => termKey(q.term) === key);
                  return <td key={setKey(kept[i])}>{p ? rounded(p.coefficient, p.standardError) : "·"}</td>;
                })}
              </tr>
            );
          })}
          {ROWS.map((r) => (
            <tr key={r.name}>
              <td style={{ whiteSpace: "nowrap" }}>{r.name}</td>
              {average && <td colSpan={2} />}
              {fits.map((f, i) => (
                <td key={setKey(kept[i])}>{r.of(f)}</td>
              ))}
            </tr>
          ))}
          {average && (
            <tr>
              <td>weight</td>
              <td colSpan={2} />
              {weights.map((w, i) => (
                <td key={setKey(kept[i])}>{w.toFixed(2)}</td>
              ))}
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

import { figure, listed } from "@/core/findings";

/** What a figure rests on that set-ups were too few to tell. */
export const assumedText = (ratio: number): string =>
  `Assumed, set-ups being too few to tell: their variance is ${figure(ratio, 3)} × that of trials.`;

/** The mark of a figure that rests on an assumed variance between set-ups; nothing where none is assumed. */
export const Assumed = ({ ratio }: { ratio: number | undefined }) =>
  ratio === undefined ? null : (
    <sup className="warning" title={assumedText(ratio)}>
      †
    </sup>
  );

/** What the mark stands for, below the figures that bear it; nothing where none does. */
export function AssumedNote({ of }: { of: readonly { name: string; ratio: number | undefined }[] }) {
  const such = of.flatMap(({ name, ratio }) => (ratio === undefined ? [] : [{ name, ratio }]));
  if (such.length === 0) return null;
  const alike = such.every((s) => s.ratio === such[0].ratio);
  return (
    <p className="small warning" style={{ marginTop: 4 }}>
      †{" "}
      {alike
        ? assumedText(such[0].ratio)
        : `Assumed, set-ups being too few to tell: their variance is ${listed(such.map((s) => `${figure(s.ratio, 3)} × that of trials for ${s.name}`))}.`}
    </p>
  );
}

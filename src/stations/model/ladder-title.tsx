import { axisName, clip } from "@/ui/parts/format";

/** What the bars of the ladder are. */
export const LadderTitle = ({ name, unit }: { name: string; unit: string | undefined }) => (
  <strong className="grow" style={{ fontSize: 13.5 }} title={name}>
    Change in {axisName(clip(name, 30), unit)}, low to high
    <span className="quiet" style={{ fontWeight: 400 }}>
      {" "}
      (squares: centre to edge)
    </span>
  </strong>
);

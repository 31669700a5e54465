"use client";
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { counted } from "@/core/findings";
import type { Retention } from "@/server/retention";
import type { DeletedStudy } from "@/server/studies";
import { Fold } from "@/ui/parts/fold";
import { send } from "@/ui/parts/send";
import css from "./home.module.css";

const day = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium" });

/** Deleted studies: until when each can be brought back, and how long that is. */
export function Deleted({
  studies,
  days,
  back,
  fail,
  refresh,
}: {
  studies: readonly DeletedStudy[];
  days: number;
  back(id: string): void;
  fail(sentence: string): void;
  refresh(): void;
}) {
  const [kept, setKept] = useState(days);
  const keep = async (deletedDays: number): Promise<void> => {
    setKept(deletedDays);
    const answer = await send<Retention>("/api/keeping", "PATCH", { deletedDays });
    if (answer.ok) refresh();
    else fail(answer.sentence);
  };
  if (studies.length === 0) return null;
  return (
    <Fold className="small" title={`${counted(studies.length, "deleted study", "deleted studies")}`}>
      <p className="row" style={{ gap: 6, marginBottom: 6 }}>
        A deleted study can be brought back for
        <InputNumber
          size="small"
          min={1}
          max={3650}
          style={{ width: 72 }}
          aria-label="Days for which a deleted study can be brought back"
          value={kept}
          onChange={(n) => n !== null && void keep(n)}
        />
        days; then it goes for good.
      </p>
      {studies.map((s) => (
        <div key={s.id} className={css.deleted}>
          <span className="grow">{s.title}</span>
          <span className="quiet">
            deleted {day.format(new Date(s.deletedAt))}, kept until {day.format(new Date(s.until))}
          </span>
          <Button size="small" onClick={() => back(s.id)}>
            Bring back
          </Button>
        </div>
      ))}
    </Fold>
  );
}

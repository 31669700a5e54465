import { Button } from "antd";
import Link from "next/link";
import type { StudySummary } from "@/server/studies";
import { StageMarkerGlyph } from "@/ui/shell/stage-marker";
import css from "./home.module.css";

const ago = (iso: string): string => {
  const minutes = Math.round((Date.now() - Date.parse(iso)) / 60_000);
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${minutes} min ago`;
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} h ago`;
  return `${Math.round(minutes / 1440)} days ago`;
};

const Save = ({ study, format, children }: { study: string; format: string; children: string }) => (
  <Button size="small" href={`/api/studies/${study}/export?format=${format}`}>
    {children}
  </Button>
);

/** A study that cannot be read: why, and its rows to be saved. */
const DamagedRow = ({ study: s }: { study: StudySummary }) => (
  <article className={css.study}>
    <div style={{ minWidth: 0 }}>
      <strong className={css.name}>{s.title}</strong>
      <div className="small quiet" suppressHydrationWarning>
        touched {ago(s.updatedAt)}
      </div>
    </div>
    <p className="danger" style={{ margin: 0 }}>
      This study cannot be read: {s.damage}. The others work. Save its raw file before anything else; a backup may hold
      it whole.
    </p>
    <div className={css.acts}>
      <Save study={s.id} format="raw">
        Save raw file
      </Save>
    </div>
  </article>
);

/** A study as a row of its trail. */
export function StudyRow({ study: s, duplicate, remove }: { study: StudySummary; duplicate(): void; remove(): void }) {
  if (s.damage !== null) return <DamagedRow study={s} />;
  return (
    <article className={css.study}>
      <div style={{ minWidth: 0 }}>
        <Link
          prefetch={false}
          href={`/studies/${s.id}/${s.trail[2].stones === 3 ? "model" : s.trail[1].stones === 3 ? "trials" : "question"}`}
          className={css.name}
        >
          {s.title}
        </Link>
        <div className="small quiet" suppressHydrationWarning>
          touched {ago(s.updatedAt)}
        </div>
      </div>
      <div className={css.trail}>
        {s.trail.map((c) => (
          <Link
            prefetch={false}
            key={c.station}
            href={`/studies/${s.id}/${c.station}`}
            title={`${c.station}: ${c.fact}`}
          >
            <StageMarkerGlyph stones={c.stones} loose={c.loose} active={false} size={26} />
            <span>{c.fact}</span>
          </Link>
        ))}
      </div>
      <div className={css.acts}>
        <Button size="small" onClick={duplicate}>
          Duplicate
        </Button>
        <Save study={s.id} format="json">
          Save file
        </Save>
        <Button size="small" onClick={remove}>
          Delete
        </Button>
      </div>
    </article>
  );
}

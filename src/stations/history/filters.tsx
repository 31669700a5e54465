"use client";
import { Button } from "antd";
import { messageText, STATIONS, type Station, whoText } from "@/core/findings";
import { locationOf } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { named, Pick } from "@/ui/parts/pick";
import { STATION_NAMES } from "@/ui/shell/station-names";
import css from "./history.module.css";
import { csvAddress, type Filter } from "./use-history";

/** Stands for no filter, and for those without a name, since a list's values are never empty. */
const ANY = "any";
const NOBODY = "nobody";

/** What of the history is shown: by station, wave, person, and of one cell where one was asked for. */
export function Filters({
  filter,
  setFilter,
  people,
}: {
  filter: Filter;
  setFilter(change: Partial<Filter>): void;
  people: readonly string[];
}) {
  const id = useDesk((d) => d.id);
  const study = useDesk((d) => d.study);
  return (
    <div className={css.filters}>
      <Pick
        label="Station"
        value={filter.station ?? ANY}
        options={[[ANY, "every station"], ...STATIONS.map((s) => [s, STATION_NAMES[s]] as const)]}
        set={(s) => setFilter({ station: s === ANY ? undefined : (s as Station) })}
      />
      {study.waves.length > 0 && (
        <Pick
          label="Wave"
          value={filter.wave ?? ANY}
          options={[[ANY, "every wave"], ...named(study.waves)]}
          set={(w) => setFilter({ wave: w === ANY ? undefined : w })}
        />
      )}
      <Pick
        label="Person"
        value={filter.who === undefined ? ANY : filter.who || NOBODY}
        options={[[ANY, "everybody"], ...people.map((p) => [p || NOBODY, whoText(p)] as const)]}
        set={(p) => setFilter({ who: p === ANY ? undefined : p === NOBODY ? "" : p })}
      />
      {filter.path !== undefined && (
        <Button size="small" title="Show all cells again" onClick={() => setFilter({ path: undefined })}>
          {messageText("locations", locationOf({ study }, filter.path.split("/").map(decodeURIComponent)))} ×
        </Button>
      )}
      <span className="grow" />
      <a className="link small" href={csvAddress(id, filter)}>
        CSV
      </a>
    </div>
  );
}

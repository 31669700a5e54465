"use client";
import { Button, Form, Input } from "antd";
import { useRouter, useSearchParams } from "next/navigation";
import { useEffect, useMemo, useState } from "react";
import { STATIONS } from "@/core/findings";
import { writeStudyFile } from "@/core/formats";
import { type Mark, parseStudy, type Study } from "@/core/study";
import { useDesk, useDeskStore } from "@/ui/desk/store";
import { AskActor } from "@/ui/parts/actor";
import { useActor } from "@/ui/parts/actor-name";
import { LinkButton } from "@/ui/parts/link-button";
import { saveText } from "@/ui/parts/save-text";
import { say } from "@/ui/parts/say";
import { send } from "@/ui/parts/send";
import { Beside } from "./beside";
import { dayOf, EventList, timeOf } from "./event-list";
import { Filters } from "./filters";
import css from "./history.module.css";
import { type Filter, useHistory } from "./use-history";

/** What the address asks for. */
function useFilter(): [Filter, (change: Partial<Filter>) => void] {
  const query = useSearchParams();
  const router = useRouter();
  const text = query.toString();
  const filter = useMemo((): Filter => {
    const asked = new URLSearchParams(text);
    const station = STATIONS.find((s) => s === asked.get("station"));
    const [wave, who, path] = ["wave", "who", "path"].map((name) => asked.get(name));
    return {
      ...(station ? { station } : {}),
      ...(wave === null ? {} : { wave }),
      ...(who === null ? {} : { who }),
      ...(path === null ? {} : { path }),
    };
  }, [text]);
  return [
    filter,
    (change) => {
      const next = new URLSearchParams();
      for (const [name, value] of Object.entries({ ...filter, ...change }))
        if (value !== undefined) next.set(name, value as string);
      router.replace(`?${next}`, { scroll: false });
    },
  ];
}

/** Names the present moment. */
function MarkNow() {
  const mark = useDesk((d) => d.mark);
  const [form] = Form.useForm<{ name: string }>();
  return (
    <Form
      form={form}
      layout="inline"
      className={css.marking}
      onFinish={async ({ name }) => {
        const refused = await mark(name.trim());
        if (refused) say(refused);
        else form.resetFields();
      }}
    >
      <Form.Item name="name" rules={[{ required: true, whitespace: true, message: "Name the moment first." }]}>
        <Input aria-label="Name of this moment" placeholder="Before the second wave" maxLength={80} id="mark" />
      </Form.Item>
      <Button htmlType="submit">Mark this moment</Button>
    </Form>
  );
}

/** A past state on its way, there, or refused. */
type Past = { revision: number; heading: string; study?: Study; sentence?: string };

/** Every change of the study, filtered, and any past state beside the present. */
export function HistoryStation() {
  const store = useDeskStore();
  const id = useDesk((d) => d.id);
  const revision = useDesk((d) => d.revision);
  const marks = useDesk((d) => d.marks);
  const [filter, setFilter] = useFilter();
  const { events, people, more, busy, sentence } = useHistory(id, filter, revision);
  const [chosen, setChosen] = useState<number | undefined>(undefined);
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set());
  const [past, setPast] = useState<Past | undefined>(undefined);
  const who = useActor();
  const [asking, setAsking] = useState(false);
  useEffect(() => {
    if (window.location.hash === "#mark") document.getElementById("mark")?.focus();
  }, []);

  const show = async (wanted: number, heading: string, event: number | undefined): Promise<void> => {
    setChosen(event);
    setPast({ revision: wanted, heading });
    const answer = await send<{ study: unknown }>(`/api/studies/${id}/history/${wanted}`);
    // Another may have been asked for meanwhile.
    setPast((held) =>
      held?.revision !== wanted
        ? held
        : answer.ok
          ? { ...held, study: parseStudy(answer.data.study) }
          : { ...held, sentence: answer.sentence },
    );
  };
  const choose = (wanted: number, event: number | undefined): void => {
    const mark = marks.find((m) => event === undefined && m.revision === wanted);
    const made = events.find((e) => e.id === event);
    const heading = mark
      ? `at “${mark.name}”`
      : made
        ? `after “${made.what}”, ${dayOf(made.at)}, ${timeOf(made.at)}`
        : "then";
    void show(wanted, heading, event);
  };
  const unmark = async (mark: Mark): Promise<void> => {
    const refused = await store.getState().unmark(mark.id);
    if (refused) say(refused);
  };
  const filtered = Object.keys(filter).length > 0;
  return (
    <div className={css.body}>
      <main className={css.list} data-station="history">
        <div className="row" style={{ flexWrap: "wrap", gap: 10 }}>
          <h1 className="grow">History</h1>
          <MarkNow />
        </div>
        <Filters filter={filter} setFilter={setFilter} people={people} />
        {who === "" && (
          <p className="small quiet">
            Your changes stand under nobody's name. <LinkButton onClick={() => setAsking(true)}>Say yours</LinkButton>
          </p>
        )}
        {asking && <AskActor close={() => setAsking(false)} />}
        {sentence && (
          <p className="danger" role="alert">
            {sentence}
          </p>
        )}
        <EventList
          events={events}
          marks={filtered ? [] : marks}
          chosen={chosen}
          open={open}
          setOpen={(event) =>
            setOpen((held) => new Set(held.has(event) ? [...held].filter((e) => e !== event) : [...held, event]))
          }
          choose={choose}
          unmark={(mark) => void unmark(mark)}
        />
        {!busy && !sentence && events.length === 0 && (
          <p className="quiet" style={{ padding: "16px 0" }}>
            Nothing of this kind was changed.{" "}
            {filtered && (
              <LinkButton
                onClick={() => setFilter({ station: undefined, wave: undefined, who: undefined, path: undefined })}
              >
                Show everything
              </LinkButton>
            )}
          </p>
        )}
        {more && (
          <Button loading={busy} onClick={more} style={{ margin: "10px 0 20px" }}>
            Show earlier ones
          </Button>
        )}
      </main>
      <div className={css.past}>
        {past === undefined ? (
          <div className={css.hint}>
            <p>
              <strong>Any past state can be looked at.</strong>
            </p>
            <p>
              Press a change on the left: the study as it stood after it is shown here beside the present, with what
              differs marked. It can be brought back as a new change; nothing is lost by looking, or by that.
            </p>
          </div>
        ) : past.sentence ? (
          <p className="danger" role="alert">
            {past.sentence}
          </p>
        ) : past.study ? (
          <Beside
            past={past.study}
            heading={past.heading}
            file={() =>
              past.study &&
              saveText(writeStudyFile(past.study), `revision-${past.revision}.trialmoor.json`, "application/json")
            }
          />
        ) : (
          <p className="quiet" role="status">
            Putting together what stood {past.heading} …
          </p>
        )}
      </div>
    </div>
  );
}

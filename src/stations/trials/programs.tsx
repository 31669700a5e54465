"use client";
import { Button, Form, Input, InputNumber, Segmented } from "antd";
import { useState } from "react";
import { counted } from "@/core/findings";
import { measuredResponses, type Study } from "@/core/study";
import { copyText } from "@/ui/parts/copy-text";
import { LinkButton } from "@/ui/parts/link-button";
import { saveText } from "@/ui/parts/save-text";
import { say } from "@/ui/parts/say";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { send } from "@/ui/parts/send";
import { useSession } from "@/ui/parts/session";
import { paceOf } from "./lease-bar";
import { type Language, SCRIPTS } from "./program-scripts";
import css from "./trials.module.css";
import type { LeaseState } from "./use-leases";

const clock = new Intl.DateTimeFormat("en-GB", { timeStyle: "medium" });

/** The key that a program needs where the server is open to a network; shown once, and then in the script. */
function Key({ id, made }: { id: string; made(key: string): void }) {
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const make = async ({ name }: { name: string }): Promise<void> => {
    const answer = await send<{ url: string }>(`/api/studies/${id}/keys`, "POST", { name });
    if (answer.ok) made(answer.data.url.split("#key=")[1]);
    else setSentence(answer.sentence);
  };
  return (
    <>
      <Form layout="inline" requiredMark={false} onFinish={(asked) => void make(asked)}>
        <Form.Item
          name="name"
          label="Key for"
          rules={[{ required: true, whitespace: true, message: "Name it: which program, on which machine?" }]}
        >
          <Input maxLength={60} placeholder="e.g. dryer simulation, node 3" style={{ width: 260 }} />
        </Form.Item>
        <Button htmlType="submit">Make a key</Button>
      </Form>
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
    </>
  );
}

/** The trials that are out, with who has them. */
function Lent({ lending }: { lending: LeaseState }) {
  const { now, takeBack } = lending;
  if (!now || now.lent.length === 0) return null;
  const back = async (lease: string): Promise<void> => {
    const refused = await takeBack(lease);
    if (refused) say(refused);
  };
  return (
    <table className={css.tablets}>
      <thead>
        <tr>
          <th>Trial</th>
          <th>Run by</th>
          <th>Since</th>
          <th>Lent until</th>
          <th aria-label="Take back" />
        </tr>
      </thead>
      <tbody>
        {now.lent.slice(0, 8).map((l) => (
          <tr key={l.lease}>
            <td className="num">{l.order}</td>
            <td>{l.holder}</td>
            <td className="num">{clock.format(new Date(l.since))}</td>
            <td className="num">{clock.format(new Date(l.until))}</td>
            <td>
              <LinkButton aria-label={`Take trial ${l.order} back`} onClick={() => void back(l.lease)}>
                Take back
              </LinkButton>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How a program runs the waiting trials: where it asks, by which key, and a script that does it. */
export function Programs({ id, study, lending }: { id: string; study: Study; lending: LeaseState }) {
  const { opened } = useSession();
  const [language, setLanguage] = useState<Language>("python");
  const [key, setKey] = useState<string | undefined>(undefined);
  const { now } = lending;
  const address = `${window.location.origin}/api/studies/${id}/next`;
  const script = SCRIPTS[language];
  const text = script.of({
    address,
    key: key ?? (opened ? "put the key here" : ""),
    title: study.title,
    responses: measuredResponses(study).map((r) => r.id),
  });
  const set = async (how: { stopped?: boolean; atOnce?: number | null }): Promise<void> => {
    const refused = await lending.change(how);
    if (refused) say(refused);
  };
  const pace = now && paceOf(now);
  return (
    <>
      <p className="quiet" style={{ marginBottom: 10 }}>
        A program asks the address for the next waiting trial, runs it and sends back what came out; the script below
        does both, and calls what works a trial out. A trial that it does not bring back in time is lent again.
      </p>
      <div className={css.facts}>
        <span className="quiet">Address</span>
        <span>
          <code>{address}</code>{" "}
          <LinkButton
            className="small"
            onClick={() => copyText(address, "Address copied", "select it and copy it by hand.")}
          >
            copy
          </LinkButton>
        </span>
        <span className="quiet">Key</span>
        {!opened ? (
          <span>none needed: the server answers this machine alone</span>
        ) : key ? (
          <span>
            <code className={css.url}>{key}</code>
            <br />
            <span className="small">
              It stands in the script, and is shown this once; it is taken back under Tablets.
            </span>
          </span>
        ) : (
          <Key id={id} made={setKey} />
        )}
        <label className="quiet" htmlFor="at-once">
          At once
        </label>
        <span>
          at most{" "}
          <InputNumber
            id="at-once"
            size="small"
            min={1}
            max={1000}
            precision={0}
            placeholder="any"
            style={{ width: 76 }}
            value={now?.atOnce ?? null}
            onChange={(value) => void set({ atOnce: value })}
          />{" "}
          trials: start the script as often as the machine has room for
        </span>
        <span className="quiet">Trials</span>
        <span>
          {now ? `${counted(now.waiting, "waits", "wait")}, ${now.lent.length} at work` : "…"}
          {pace ? ` · ${pace}` : ""}{" "}
          {now && (
            <Button size="small" onClick={() => void set({ stopped: !now.stopped })}>
              {now.stopped ? "Let them go on" : "Stop lending"}
            </Button>
          )}
        </span>
      </div>
      <Lent lending={lending} />
      <div className="row" style={{ margin: "12px 0 6px" }}>
        <Segmented<Language>
          size="small"
          aria-label="Language of the script"
          value={language}
          options={(Object.keys(SCRIPTS) as Language[]).map((value) => ({ value, label: SCRIPTS[value].name }))}
          onChange={setLanguage}
        />
        <span className="grow" />
        <Button size="small" onClick={() => copyText(text, "Script copied", "select it and copy it by hand.")}>
          Copy
        </Button>
        <Button size="small" type="primary" onClick={() => saveText(text, script.file)}>
          Save {script.file}
        </Button>
      </div>
      <ScrollBox name="Script" className={css.script}>
        <pre data-testid="script">{text}</pre>
      </ScrollBox>
    </>
  );
}

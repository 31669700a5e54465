"use client";
import { Button, Form, Input } from "antd";
import { useCallback, useEffect, useState } from "react";
import type { BenchKey } from "@/server/access/keys";
import { copyText } from "@/ui/parts/copy-text";
import { LinkButton } from "@/ui/parts/link-button";
import { Modal } from "@/ui/parts/overlays";
import { QrCode } from "@/ui/parts/qr-code";
import { say } from "@/ui/parts/say";
import { send } from "@/ui/parts/send";
import { useSession } from "@/ui/parts/session";
import css from "./trials.module.css";

const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** A link that was just made: the server does not know it any more. */
interface Made {
  name: string;
  url: string;
}

/** The link as a code for a tablet's camera; shown this once. */
function Link({ made, close }: { made: Made; close(): void }) {
  const copy = (): void => copyText(made.url, "Link copied", "select the link and copy it by hand.");
  return (
    <div className={css.link}>
      <QrCode text={made.url} name={`Link of the bench for ${made.name}`} />
      <div>
        <h3>{made.name}</h3>
        <p>
          Point the tablet's camera at the code, or open the link there. It is shown <b>this once</b>: a tablet that
          lost it gets a new one.
        </p>
        <p className={css.url}>{made.url}</p>
        <div className="row">
          <Button onClick={copy}>Copy the link</Button>
          <Button type="primary" onClick={close}>
            The tablet has it
          </Button>
        </div>
      </div>
    </div>
  );
}

/** Tablets that may open this study's bench: each has a link of its own, which can be taken back. */
export default function Tablets({ id, close }: { id: string; close(): void }) {
  const { opened } = useSession();
  const [keys, setKeys] = useState<readonly BenchKey[] | undefined>(undefined);
  const [made, setMade] = useState<Made | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const [form] = Form.useForm<{ name: string }>();
  const read = useCallback(async (): Promise<void> => {
    const answer = await send<BenchKey[]>(`/api/studies/${id}/keys`);
    if (answer.ok) setKeys(answer.data);
    else setSentence(answer.sentence);
  }, [id]);
  useEffect(() => void read(), [read]);
  const make = async ({ name }: { name: string }): Promise<void> => {
    setBusy(true);
    setSentence(undefined);
    const answer = await send<{ id: string; url: string }>(`/api/studies/${id}/keys`, "POST", { name });
    setBusy(false);
    if (!answer.ok) return setSentence(answer.sentence);
    form.resetFields();
    setMade({ name: name.trim(), url: answer.data.url });
    await read();
  };
  const takeBack = async (key: BenchKey): Promise<void> => {
    const answer = await send(`/api/studies/${id}/keys/${key.id}`, "DELETE");
    if (answer.ok) say(`${key.name} does not open the bench any more.`, "done");
    else setSentence(answer.sentence);
    await read();
  };
  return (
    <Modal open footer={null} onCancel={close} title="Tablets at the bench" width={640}>
      {sentence && (
        <p className="danger" role="alert">
          {sentence}
        </p>
      )}
      {made ? (
        <Link made={made} close={() => setMade(undefined)} />
      ) : !opened ? (
        <p>
          This server answers this machine alone, so no tablet can reach it. Opened to a network, with a passphrase and
          encryption, each tablet gets a link of its own that opens this study's bench and nothing else: see{" "}
          <i>Opening to a network</i> in docs/operations.md. On this machine the bench opens without one.
        </p>
      ) : (
        <>
          <p className="quiet" style={{ marginBottom: 12 }}>
            A tablet's link opens the trials of this study at the bench, and nothing else. What is entered there stands
            under the tablet's name.
          </p>
          <Form form={form} layout="inline" requiredMark={false} onFinish={(asked) => void make(asked)}>
            <Form.Item
              name="name"
              label="New tablet"
              rules={[{ required: true, whitespace: true, message: "Name it: where does it stand?" }]}
            >
              <Input maxLength={60} placeholder="e.g. at the first bowl" style={{ width: 260 }} autoFocus />
            </Form.Item>
            <Button type="primary" htmlType="submit" loading={busy}>
              Make its link
            </Button>
          </Form>
          {keys && keys.length > 0 && (
            <table className={css.tablets}>
              <thead>
                <tr>
                  <th>Tablet</th>
                  <th>Link made</th>
                  <th>Last used</th>
                  <th aria-label="Take back" />
                </tr>
              </thead>
              <tbody>
                {keys.map((key) => (
                  <tr key={key.id}>
                    <td>{key.name}</td>
                    <td className="num">{when.format(new Date(key.created))}</td>
                    <td className="num">{key.lastUsed ? when.format(new Date(key.lastUsed)) : "never"}</td>
                    <td>
                      <LinkButton aria-label={`Take the link of ${key.name} back`} onClick={() => void takeBack(key)}>
                        Take back
                      </LinkButton>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </Modal>
  );
}

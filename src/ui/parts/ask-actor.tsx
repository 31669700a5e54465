"use client";
import { Button, Form, Input } from "antd";
import { setActor, useActor } from "./actor-name";
import { Modal } from "./overlays";
import { send } from "./send";
import { useSession } from "./session";

/** Signs out, and leaves for the page to sign in. */
async function signOut(): Promise<void> {
  await send("/api/session", "DELETE");
  window.location.assign("/login");
}

/** Who is signed in, and the way out. */
const SignedIn = ({ name, close }: { name: string; close(): void }) => (
  <Modal open footer={null} onCancel={close} title={name || "Signed in"} width={420}>
    <p style={{ marginBottom: 16 }}>
      Your name stands in the history beside every change you make. Sign out when others use this browser.
    </p>
    <div className="row" style={{ justifyContent: "flex-end" }}>
      <Button onClick={close}>Stay</Button>
      <Button type="primary" onClick={() => void signOut()}>
        Sign out
      </Button>
    </div>
  </Modal>
);

/** Asks whose name stands with changes made in this browser. */
export function AskActor({ close }: { close(): void }) {
  const name = useActor();
  const { opened, role } = useSession();
  if (opened && role === "desk") return <SignedIn name={name} close={close} />;
  return (
    <Modal open footer={null} onCancel={close} title="Who are you?" width={420}>
      <Form
        layout="vertical"
        initialValues={{ name }}
        onFinish={(v: { name?: string }) => {
          setActor(v.name ?? "");
          close();
        }}
      >
        <Form.Item
          name="name"
          label="Your name"
          extra="It stands in the history beside every change you make in this browser."
        >
          <Input maxLength={60} autoFocus />
        </Form.Item>
        <div className="row" style={{ justifyContent: "flex-end" }}>
          <Button onClick={close}>Not now</Button>
          <Button type="primary" htmlType="submit">
            Keep
          </Button>
        </div>
      </Form>
    </Modal>
  );
}

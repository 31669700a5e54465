"use client";
import { Button, Form, Input } from "antd";
import { Modal } from "./overlays";
import { setWho, useWho } from "./who-name";

/** Asks whose name stands with changes made in this browser. */
export function AskWho({ close }: { close(): void }) {
  const name = useWho();
  return (
    <Modal open footer={null} onCancel={close} title="Who are you?" width={420}>
      <Form
        layout="vertical"
        initialValues={{ name }}
        onFinish={(v: { name?: string }) => {
          setWho(v.name ?? "");
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

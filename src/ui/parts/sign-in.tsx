"use client";
import { Button, Form, Input } from "antd";
import { useState } from "react";
import { actorName, setActor } from "./actor-name";
import { send } from "./send";

interface Asked {
  name: string;
  passphrase: string;
}

/** Name and passphrase; says what was wrong and keeps what was typed. */
export function SignIn({ name, done }: { name?: string; done(): void }) {
  const [busy, setBusy] = useState(false);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const signIn = async ({ name, passphrase }: Asked): Promise<void> => {
    setBusy(true);
    const answer = await send("/api/session", "POST", { name, passphrase });
    setBusy(false);
    if (!answer.ok) {
      setSentence(answer.sentence);
      return;
    }
    setActor(name);
    done();
  };
  return (
    <Form
      layout="vertical"
      requiredMark={false}
      initialValues={{ name: name ?? actorName(), passphrase: "" }}
      onFinish={(asked: Asked) => void signIn(asked)}
    >
      <Form.Item
        name="name"
        label="Your name"
        extra="It stands in the history beside every change you make."
        rules={[{ required: true, whitespace: true, message: "Say your name: changes stand under it." }]}
      >
        <Input maxLength={60} autoComplete="username" autoFocus />
      </Form.Item>
      <Form.Item
        name="passphrase"
        label="Passphrase"
        rules={[{ required: true, message: "Type the passphrase of this server." }]}
        {...(sentence === undefined
          ? {}
          : { validateStatus: "error" as const, help: <span role="alert">{sentence}</span> })}
      >
        <Input.Password autoComplete="current-password" onChange={() => setSentence(undefined)} />
      </Form.Item>
      <Button type="primary" htmlType="submit" loading={busy} block>
        Sign in
      </Button>
    </Form>
  );
}

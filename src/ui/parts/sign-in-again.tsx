"use client";
import { Modal } from "antd";
import { useSession } from "./session";
import { SignIn } from "./sign-in";

/** Over a page whose session has ended; nothing on it is lost. */
export function SignInAgain({ done }: { done(): void }) {
  const { role, name } = useSession();
  return (
    <Modal open footer={null} closable={false} keyboard={false} title="Your session has ended" width={420}>
      <p style={{ marginBottom: 16 }}>
        {role === "bench"
          ? "What you enter is kept on this device. Open the link of the bench again, or sign in: it is sent then."
          : "What you changed is kept in this browser, and is saved when you have signed in again."}
      </p>
      <SignIn {...(role === "desk" ? { name } : {})} done={done} />
    </Modal>
  );
}

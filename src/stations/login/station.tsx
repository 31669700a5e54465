"use client";
import { Button } from "antd";
import { useEffect, useState } from "react";
import { send } from "@/ui/parts/send";
import { SignIn } from "@/ui/parts/sign-in";
import { Mark } from "@/ui/shell/stage-marker";
import css from "./login.module.css";

/** Opens what was asked for: the page stands at its address already. */
function enter(): void {
  if (window.location.pathname === "/login") window.location.replace("/");
  else window.location.reload();
}

/** The key of a bench's link; it stands behind the hash. */
const keyIn = (hash: string): string | undefined => /^#key=([\w-]+)$/.exec(hash)?.[1];

/** What stands here: the page to sign in, a link that is being tried, or one that opens nothing any more. */
type Stage = { at: "sign-in" } | { at: "key" } | { at: "refused"; sentence: string };

/** The way in over a network: by passphrase, or by the link of a bench. */
export function LoginStation({ known }: { known: string | undefined }) {
  const [stage, setStage] = useState<Stage>({ at: "key" });
  useEffect(() => {
    const key = keyIn(window.location.hash);
    if (key === undefined) {
      setStage({ at: "sign-in" });
      return;
    }
    void send("/api/session", "POST", { key }).then((answer) => {
      if (!answer.ok) {
        setStage({ at: "refused", sentence: answer.sentence });
        return;
      }
      // The key need not stand in the address bar of a device that others look at.
      window.history.replaceState(null, "", window.location.pathname);
      window.location.reload();
    });
  }, []);
  return (
    <div className={css.page} data-ready={stage.at === "key" ? "no" : "yes"}>
      <main className={css.card} data-station="login">
        <h1 className={css.name}>
          <Mark />
          Trialmoor
        </h1>
        {stage.at === "key" && <p role="status">Opening the bench…</p>}
        {stage.at === "refused" && (
          <>
            <p className="danger" role="alert">
              {stage.sentence}
            </p>
            <Button onClick={() => setStage({ at: "sign-in" })}>Sign in instead</Button>
          </>
        )}
        {stage.at === "sign-in" && (
          <>
            <p className="quiet">
              {known === ""
                ? "This server is open to this machine alone: nobody needs to sign in here, and everything stands open from Home."
                : known === undefined
                  ? "This server is open to a network. Whoever runs it knows the passphrase; a tablet at the bench is let in by its link."
                  : `This device is “${known}”: it opens the bench of one study, and nothing else. Sign in to open more.`}
            </p>
            <SignIn done={enter} />
          </>
        )}
      </main>
    </div>
  );
}

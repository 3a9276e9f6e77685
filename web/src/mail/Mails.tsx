import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { NotYet, Page } from "../ui/Layout";
import { counted, moment } from "../ui/words";

type Mail = Schemas["MailView"];

/** What was written to whom, and what became of it. */
export function Mails() {
  const found = useQuery({ queryKey: ["mails"], queryFn: () => asked(api.GET("/api/mails")) });
  if (!found.data) return <NotYet error={found.error} />;
  return (
    <Page title="Mails">
      <h1>
        Mails
        <small>of the last month</small>
      </h1>
      {found.data.length === 0 && (
        <p className="soft">None yet. Each chooses for themselves what they would like to hear of.</p>
      )}
      <ul className="line-list">
        {found.data.map((one) => (
          <One key={one.id} mail={one} />
        ))}
      </ul>
    </Page>
  );
}

function became(one: Mail) {
  if (one.sent_at) return `handed over ${moment(one.sent_at)}`;
  if (one.given_up_at) return `given up after ${counted(one.tries, "try", "tries")}: ${one.said}`;
  return one.tries ? `${counted(one.tries, "try", "tries")}: ${one.said}; again later` : "on its way";
}

function One({ mail }: { mail: Mail }) {
  const cache = useQueryClient();
  const [fault, setFault] = useState<unknown>(null);
  const again = () =>
    void asked(api.POST("/api/mails/{mail_id}/again", { params: { path: { mail_id: mail.id } } }))
      .then(() => cache.invalidateQueries({ queryKey: ["mails"] }))
      .catch(setFault);
  return (
    <li>
      <details className="mail-text">
        <summary>
          <b>{mail.subject}</b>
          <small>
            to {mail.to}, {moment(mail.at)}
          </small>
        </summary>
        <pre>{mail.text}</pre>
      </details>
      <span className={mail.given_up_at ? "wrong-text" : undefined}>{became(mail)}</span>
      <span className="line-acts">
        <Button variant="link" onClick={again} aria-label={`Send again: ${mail.subject}, to ${mail.to}`}>
          Send again
        </Button>
        <Fault of={fault} />
      </span>
    </li>
  );
}

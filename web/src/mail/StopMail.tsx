import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useParams } from "react-router";
import { api, asked } from "../api/client";
import { Fault } from "../ui/Fault";
import { Mark } from "../ui/Layout";

/** The link at the foot of a mail: no more of its kind. */
export function StopMail() {
  const { secret = "" } = useParams();
  const [ended, setEnded] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const end = () =>
    void asked(api.POST("/api/mail/stop/{secret}", { params: { path: { secret } } }))
      .then((found) => setEnded(found.kind_words))
      .catch(setFault);
  return (
    <main className="sign-in">
      <title>No more mails · Wary Beacon</title>
      <div className="top-mark fs-4 mb-4">
        <Mark />
        Wary Beacon
      </div>
      {ended ? (
        <p role="status">There are no more mails of this kind: {ended}. Whoever signs in can ask for them again.</p>
      ) : (
        <>
          <h1 className="h4 mb-3">No more mails of this kind?</h1>
          <Button onClick={end}>End them</Button>
          <Fault of={fault} />
        </>
      )}
    </main>
  );
}

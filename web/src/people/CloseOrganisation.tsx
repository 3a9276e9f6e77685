import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { useNavigate } from "react-router";
import { api, asked, type Problem } from "../api/client";
import { useMe } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";

/** An organisation is closed: its archive was taken, and nobody works there any more. */
export function CloseOrganisation() {
  const cache = useQueryClient();
  const navigate = useNavigate();
  const here = useMe().data?.memberships.find((one) => one.chosen)?.organisation ?? "";
  const [asking, setAsking] = useState(false);
  const [given, setGiven] = useState({ name: "", why: "", with_open_jobs: false });
  const keep = async () => {
    await asked(api.POST("/api/organisation/close", { body: given }));
    await cache.resetQueries();
    navigate("/");
  };
  return (
    <>
      <p className="mt-4">
        <Button variant="link" className="wrong-text" onClick={() => setAsking(true)}>
          Close {here} for good
        </Button>
      </p>
      {asking && (
        <DialogForm title={`Close ${here}`} keep="Close it" onKeep={keep} onDone={() => setAsking(false)}>
          {(problem) => (
            <>
              <p>
                Nobody works here any more: people, tokens, webhooks, links and sign-ins end at once. What was sealed
                stays sealed. An archive is made of it as it is then, for you to take away. Whoever runs this server can
                open it again.
              </p>
              <Open
                problem={problem}
                said={given.with_open_jobs}
                say={(with_open_jobs) => setGiven({ ...given, with_open_jobs })}
              />
              <TextField
                name="name"
                label={`Type its name: ${here}`}
                value={given.name}
                onChange={(name) => setGiven({ ...given, name })}
                problem={problem}
              />
              <TextField
                name="why"
                label="Why it is closed"
                value={given.why}
                onChange={(why) => setGiven({ ...given, why })}
                problem={problem}
              />
            </>
          )}
        </DialogForm>
      )}
    </>
  );
}

/** The jobs that are open, as the server names them, and that they stay so. */
function Open(props: { problem: Problem | null; said: boolean; say: (so: boolean) => void }) {
  const rows = props.problem?.errors.filter((one) => one.path === "with_open_jobs") ?? [];
  if (!rows.length) return null;
  return (
    <div role="alert" className="mb-3">
      <p className="wrong-text mb-1">These jobs are open:</p>
      <ul>
        {rows.map((one) => (
          <li key={one.text}>{one.text}</li>
        ))}
      </ul>
      <Form.Check
        id="with-open-jobs"
        label="They stay open: they are in the archive as they are, and nobody goes on with them"
        checked={props.said}
        onChange={(event) => props.say(event.target.checked)}
      />
    </div>
  );
}

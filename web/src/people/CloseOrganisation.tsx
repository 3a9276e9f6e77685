import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { api, asked } from "../api/client";
import { useMe } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";

/** An organisation is closed: its archive was taken, and nobody works there any more. */
export function CloseOrganisation() {
  const cache = useQueryClient();
  const navigate = useNavigate();
  const here = useMe().data?.memberships.find((one) => one.chosen)?.organisation ?? "";
  const [asking, setAsking] = useState(false);
  const [given, setGiven] = useState({ name: "", why: "" });
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
                stays sealed. An archive of today is wanted first. Whoever runs this server can open it again.
              </p>
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

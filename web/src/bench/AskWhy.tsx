import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useBench } from "../job/useJob";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";
import type { Asked } from "./hand";

/** Asks for a reason, in words. It stays with what it was asked for, whatever answer comes meanwhile. */
export function AskWhy({ asked, onDone }: { asked: Asked; onDone: () => void }) {
  const bench = useBench();
  const [reason, setReason] = useState("");
  const keep = async () => bench.enter({ path: asked.path, text: reason.trim() });
  return (
    <DialogForm
      title={asked.title}
      keep={asked.keep}
      ready={/\p{L}/u.test(reason)}
      onKeep={keep}
      onDone={onDone}
      beside={
        asked.leave && (
          <Button variant="link" onClick={onDone}>
            {asked.leave}
          </Button>
        )
      }
    >
      {(problem) => (
        <>
          <p>{asked.says}</p>
          <TextField
            name="why"
            label={asked.label}
            hint="In words, so that whoever reads the record can judge it."
            value={reason}
            long={300}
            problem={problem}
            onChange={setReason}
          />
        </>
      )}
    </DialogForm>
  );
}

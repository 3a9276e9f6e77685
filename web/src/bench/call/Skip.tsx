import { useState } from "react";
import { useBench } from "../../job/useJob";
import { DialogForm } from "../../ui/DialogForm";
import { TextField } from "../../ui/TextField";
import { type Look, skippedAt } from "./looking";

/** Asks why a look is not made. It stays with that look whatever answer comes meanwhile. */
export function Skip({ look, onDone }: { look: Look; onDone: () => void }) {
  const bench = useBench();
  const [reason, setReason] = useState("");
  const keep = async () => bench.enter({ path: skippedAt(look.key), text: reason.trim() });
  return (
    <DialogForm title="Skip this look" keep="Skip it" ready={/\p{L}/u.test(reason)} onKeep={keep} onDone={onDone}>
      {(problem) => (
        <>
          <p>{look.words} What was not looked at stands on the record and on the certificate.</p>
          <TextField
            name="skipped"
            label="Why it is not looked at"
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

import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useBench } from "../../job/useJob";
import { DialogForm } from "../../ui/DialogForm";
import { TextField } from "../../ui/TextField";

/** Asks why a row is set aside. It stays on the record, with the reason. */
export function SetAside({ list, row, onDone }: { list: string; row: string; onDone: () => void }) {
  const bench = useBench();
  const [reason, setReason] = useState("");
  const number = bench.rows(list).findIndex((one) => one.row === row) + 1;
  const keep = async () => bench.enter({ path: `${list}.${row}.set_aside`, text: reason.trim() });
  return (
    <DialogForm
      title={`Set run ${number} aside`}
      keep="Set aside"
      ready={/\p{L}/u.test(reason)}
      onKeep={keep}
      onDone={onDone}
      beside={
        <Button variant="link" onClick={onDone}>
          Leave it in
        </Button>
      }
    >
      {(problem) => (
        <>
          <p>It no longer counts, and stays on the record with the reason.</p>
          <TextField
            name="set_aside"
            label="What happened to it?"
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

import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";
import { library } from "./library";

/** What changes an account is done soon after a password: where that is long ago, it is asked for once more. */
export function AskPassword({ onDone, children }: { onDone: () => void; children: ReactNode }) {
  const recent = useQuery({
    queryKey: ["recent"],
    queryFn: async () => {
      const methods = (await library<{ methods?: { at: number }[] }>("auth/session")).data.methods ?? [];
      // The server asks after ten minutes: a minute is left for what is typed meanwhile.
      return Date.now() / 1000 - (methods.at(-1)?.at ?? 0) < 540;
    },
    gcTime: 0,
  });
  const [password, setPassword] = useState("");
  const [given, setGiven] = useState(false);
  const keep = async () => {
    await library("auth/reauthenticate", "POST", { password });
    setGiven(true);
  };
  if (recent.isPending) return null;
  if (recent.data || given) return children;
  return (
    <DialogForm title="Your password once more" keep="Go on" onKeep={keep} onDone={() => given || onDone()}>
      {(problem) => (
        <TextField
          name="password"
          label="Present password"
          type="password"
          value={password}
          onChange={setPassword}
          problem={problem}
        />
      )}
    </DialogForm>
  );
}

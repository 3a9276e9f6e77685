import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Table from "react-bootstrap/Table";
import { api, asked, type Schemas } from "../api/client";
import { useProfiles } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { TextField } from "../ui/TextField";

/** The limits of an organisation, for its leads. */
export function Limits() {
  const profiles = useProfiles().data ?? [];
  const [changing, setChanging] = useState<Schemas["ProfileView"] | null>(null);
  return (
    <section>
      <h2>Limits</h2>
      <p>Starting values, not law. A job keeps the limits that it was judged by.</p>
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>For</th>
            <th>Left alone within</th>
            <th>Repeats within</th>
            <th className="num">Runs at least</th>
            <th>Plausible to</th>
            <th>
              <span className="visually-hidden">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {profiles.map((one) => (
            <tr key={one.key}>
              <td>{one.title}</td>
              <td>{one.accept_words}</td>
              <td>{one.repeat || "–"}</td>
              <td className="num">{one.minimum_runs}</td>
              <td>{one.plausible}</td>
              <td className="num">
                <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.title}`}>
                  Change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {changing && <LimitForm profile={changing} onDone={() => setChanging(null)} />}
    </section>
  );
}

const asText = (accept: unknown): string => {
  if (typeof accept === "string") return accept;
  const [rule, parts] = Object.entries((accept ?? {}) as Record<string, string[]>)[0] ?? [];
  return rule && parts ? `${parts.join(" or ")}, the ${rule}` : "";
};

/** `1 %`, `150 kg`, or `1 % or 150 kg, the smaller`. */
function asLimit(text: string): unknown {
  const pair = /^(.+?)\s+or\s+(.+?),?\s+(?:the\s+)?(larger|smaller)$/.exec(text.trim());
  return pair ? { [pair[3]!]: [pair[1], pair[2]] } : text.trim() || null;
}

function LimitForm({ profile, onDone }: { profile: Schemas["ProfileView"]; onDone: () => void }) {
  const cache = useQueryClient();
  const [accept, setAccept] = useState(asText(profile.accept));
  const [given, setGiven] = useState({
    repeat: profile.repeat,
    minimum_runs: String(profile.minimum_runs),
    plausible: profile.plausible,
    look_minutes: String(profile.look_minutes),
    harm_minutes: profile.harm_minutes === null ? "" : String(profile.harm_minutes),
  });
  const [every, setEvery] = useState(profile.looks === "all");
  const [skips, setSkips] = useState(profile.skip_looks);
  const keep = async () => {
    const body = {
      ...given,
      minimum_runs: Number(given.minimum_runs),
      look_minutes: Number(given.look_minutes),
      skip_looks: skips,
      looks: every ? "all" : "worth",
      harm_minutes: given.harm_minutes.trim() ? Number(given.harm_minutes) : null,
      accept: asLimit(accept),
    } as Schemas["ProfileIn"];
    await asked(api.PUT("/api/profiles/{key}", { params: { path: { key: profile.key } }, body }));
    void cache.invalidateQueries({ queryKey: ["profiles"] });
  };
  return (
    <DialogForm title={profile.title} keep="Keep" onKeep={keep} onDone={onDone}>
      {(problem) => {
        const common = (key: keyof typeof given) => ({
          name: key,
          value: given[key],
          onChange: (value: string) => setGiven({ ...given, [key]: value }),
          problem,
        });
        return (
          <>
            <TextField
              name="accept"
              label="Left alone within"
              value={accept}
              onChange={setAccept}
              problem={problem}
              hint="such as 0.5 %, 150 kg, or: 1 % or 150 kg, the smaller"
            />
            <TextField label="Three runs repeat within" {...common("repeat")} />
            <TextField label="Runs at least" {...common("minimum_runs")} />
            <TextField label="Plausible to" {...common("plausible")} />
            <TextField
              label="A look before an adjustment takes at most, min"
              {...common("look_minutes")}
              hint="one that takes longer is named, and not asked for"
            />
            <TextField
              label="A figure that is set over a fault costs, min"
              {...common("harm_minutes")}
              hint="as long as a visit takes where nothing is typed; a look that is worth less than its own minutes is not asked for"
            />
            <Form.Check
              id="every-look"
              label="Every look that could tell is asked for, whatever it is worth"
              checked={every}
              onChange={(event) => setEvery(event.target.checked)}
            />
            <Form.Check
              id="skip-looks"
              label="A look may be skipped, for a reason that stands on the record"
              checked={skips}
              onChange={(event) => setSkips(event.target.checked)}
            />
          </>
        );
      }}
    </DialogForm>
  );
}

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, type Problem, type Schemas } from "../api/client";
import { useMe, useReferences, useSystemNames } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { NotYet, Page } from "../ui/Layout";
import { ChoiceField, Said, TextField } from "../ui/TextField";
import { ago } from "../ui/words";

type Reference = Schemas["ReferenceView"];

const KINDS: Record<Reference["kind"], string> = {
  scale: "Reference scales",
  weights: "Test weights",
  container: "Containers with a known tare",
  system: "Systems that were proven",
};

/** What the column of figures is for; a container shows nothing: it is a known tare. */
const CAPABLE: Record<Reference["kind"], { title: string; says: (one: Reference) => string }> = {
  scale: {
    title: "What it can show",
    says: (one) => one.shows || (one.uncertainty ? `± ${one.uncertainty}` : "not said"),
  },
  weights: { title: "How sure", says: (one) => (one.uncertainty ? `± ${one.uncertainty}` : "not said") },
  container: {
    title: "Tare",
    says: (one) => [one.tare, one.label && `marked ${one.label}`].filter(Boolean).join(", "),
  },
  system: { title: "What it hands down", says: (one) => one.shows || "nothing yet: it has no closed job" },
};

/** Are my weights and scales themselves in date and good enough? */
export function References() {
  const found = useReferences();
  const me = useMe().data;
  const [changing, setChanging] = useState<Partial<Reference> | null>(null);
  if (!found.data) return <NotYet error={found.error} />;
  return (
    <Page title="References">
      <h1>References</h1>
      {me?.leads && (
        <Button variant="outline-primary" onClick={() => setChanging({ kind: "scale" })}>
          Add a reference
        </Button>
      )}
      {(Object.entries(KINDS) as [Reference["kind"], string][]).map(([kind, title]) => {
        const capable = CAPABLE[kind];
        const rows = found.data.filter((one) => one.kind === kind);
        if (!rows.length) return null;
        return (
          <section key={kind}>
            <h2>{title}</h2>
            <Table responsive className="plain-table as-list">
              <thead>
                <tr>
                  <th>Name</th>
                  <th>{capable.title}</th>
                  <th>Certificate</th>
                  <th>In date</th>
                  <th>
                    <span className="visually-hidden">Acts</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {rows.map((one) => (
                  <tr key={one.id}>
                    <td>
                      <b>
                        <Link to={`/references/${one.id}`}>{one.name}</Link>
                      </b>
                      <div className="soft">
                        {[one.division && `division ${one.division}`, one.range && `to ${one.range}`, one.nominal]
                          .filter(Boolean)
                          .join(", ")}
                      </div>
                    </td>
                    <td>{capable.says(one)}</td>
                    <td>
                      {one.certificate || <span className="soft">no certificate</span>}
                      <div className="soft">
                        {[one.checked_by, one.lent_by && `lent by ${one.lent_by}`].filter(Boolean).join(", ")}
                      </div>
                    </td>
                    <td className="text-nowrap">
                      {one.overdue ? <b className="wrong-text">{one.due_words}</b> : one.due_words}
                      {one.check_holds === false && <div className="wrong-text">its check mass is off</div>}
                      {one.check_holds && <div className="soft">check mass {ago(one.checked_at!)}: holds</div>}
                    </td>
                    <td className="text-nowrap">
                      <Link className="btn btn-link" to={`/references/${one.id}`} aria-label={`Jobs with ${one.name}`}>
                        Jobs
                      </Link>
                      {me?.leads && (
                        <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.name}`}>
                          Change
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </section>
        );
      })}
      {!found.data.length && <p className="mt-3">None on record yet.</p>}
      {changing && <ReferenceForm reference={changing} onDone={() => setChanging(null)} />}
    </Page>
  );
}

type Field = "division" | "range" | "uncertainty" | "nominal" | "tare" | "label";

const FIELDS: Record<Reference["kind"], [Field, string][]> = {
  scale: [
    ["division", "Division, such as 20 kg"],
    ["range", "Range, such as 60 t"],
    ["uncertainty", "Expanded uncertainty, such as 0.05 %"],
  ],
  weights: [
    ["nominal", "Mass in all, such as 400 kg"],
    ["uncertainty", "Expanded uncertainty, such as 20 g"],
  ],
  container: [
    ["tare", "Tare, such as 82.4 kg"],
    ["label", "What is written on it"],
  ],
  system: [],
};
type Weight = Schemas["WeightRow"];

export function ReferenceForm({ reference, onDone }: { reference: Partial<Reference>; onDone: () => void }) {
  const cache = useQueryClient();
  const [given, setGiven] = useState({
    kind: reference.kind ?? "scale",
    name: reference.name ?? "",
    division: reference.division ?? "",
    range: reference.range ?? "",
    uncertainty: reference.uncertainty ?? "",
    nominal: reference.nominal ?? "",
    tare: reference.tare ?? "",
    certificate: reference.certificate ?? "",
    due: reference.due ?? "",
    checked_by: reference.checked_by ?? "",
    lent_by: reference.lent_by ?? "",
    label: reference.label ?? "",
    system: reference.system ?? "",
  });
  const [weights, setWeights] = useState<Weight[]>(reference.weights ?? []);
  const systems = useSystemNames().data ?? [];
  const keep = async () => {
    const own = given.kind === "weights" ? weights.filter((one) => one.label || one.nominal) : [];
    const body = { ...given, due: given.due || null, system: given.system || null, weights: own };
    if (reference.id) {
      const params = { path: { reference_id: reference.id } };
      await asked(api.PUT("/api/references/{reference_id}", { params, body }));
    } else await asked(api.POST("/api/references", { body }));
    void cache.invalidateQueries({ queryKey: ["references"] });
  };
  return (
    <DialogForm
      title={reference.id ? (reference.name ?? "") : "Add a reference"}
      keep="Keep"
      onKeep={keep}
      onDone={onDone}
      wide={given.kind === "weights"}
    >
      {(problem) => {
        const common = (key: keyof typeof given) => ({
          name: key,
          value: given[key],
          onChange: (value: string) => setGiven({ ...given, [key]: value }),
          problem,
        });
        return (
          <>
            <ChoiceField label="Kind" options={Object.entries(KINDS)} {...common("kind")} />
            <TextField label="Name" {...common("name")} />
            {given.kind === "system" && (
              <ChoiceField
                label="Which system"
                options={[["", "choose"], ...systems.map((one) => [one.id, `${one.name}, ${one.site}`] as const)]}
                {...common("system")}
              />
            )}
            {given.kind === "system" && (
              <p className="soft">
                Its division, date and how sure it is come from its latest record, as it stands then.
              </p>
            )}
            {FIELDS[given.kind]
              .filter(([key]) => key !== "nominal" || !weights.length)
              .map(([key, label]) => (
                <TextField key={key} label={label} {...common(key)} />
              ))}
            {given.kind === "weights" && <SetOf weights={weights} onChange={setWeights} problem={problem} />}
            {given.kind !== "system" && (
              <>
                <TextField label="Certificate number" {...common("certificate")} />
                <TextField label="To be checked again by" type="date" {...common("due")} />
              </>
            )}
            <TextField label="Who checks it" {...common("checked_by")} />
            <TextField label="Who lends it, if it is not your own" {...common("lent_by")} />
          </>
        );
      }}
    </DialogForm>
  );
}

const COLUMNS: [keyof Weight, string, string][] = [
  ["label", "Marked", "text"],
  ["nominal", "Mass", "text"],
  ["uncertainty", "±", "text"],
  ["certificate", "Certificate", "text"],
  ["due", "In date until", "date"],
];

/** The weights of a set, one by one, so that a job can say which of them it used. */
function SetOf({
  weights,
  onChange,
  problem,
}: {
  weights: Weight[];
  onChange: (weights: Weight[]) => void;
  problem: Problem | null;
}) {
  const type = (place: number, key: keyof Weight, text: string) =>
    onChange(weights.map((one, at) => (at === place ? { ...one, [key]: key === "due" ? text || null : text } : one)));
  const last = weights.at(-1);
  const another = () =>
    onChange([
      ...weights,
      { label: "", nominal: last?.nominal ?? "", uncertainty: last?.uncertainty ?? "", certificate: "", due: null },
    ]);
  return (
    <fieldset className="mb-3">
      <legend className="fs-6">The set, weight by weight</legend>
      {weights.length > 0 && (
        <table className="own-list-form">
          <thead>
            <tr>
              {COLUMNS.map(([key, title]) => (
                <th key={key} className="soft fw-normal">
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {weights.map((one, place) => (
              <tr key={place}>
                {COLUMNS.map(([key, title, kind]) => (
                  <td key={key}>
                    <input
                      className="form-control"
                      type={kind}
                      aria-label={`${title}, weight ${place + 1}`}
                      value={one[key] ?? ""}
                      onChange={(event) => type(place, key, event.target.value)}
                    />
                    <Said problem={problem} path={`weights[${place}].${key}`} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Said problem={problem} path="weights" />
      <Button variant="link" onClick={another}>
        {weights.length ? "Another weight" : "It is a set: name its weights"}
      </Button>
    </fieldset>
  );
}

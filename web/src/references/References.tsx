import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { FULL_PAGE, useMe, useReferences } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { ChoiceField, TextField } from "../ui/TextField";
import { day } from "../ui/words";

type Reference = Schemas["ReferenceView"];

const KINDS: Record<Reference["kind"], string> = {
  scale: "Reference scales",
  weights: "Test weights",
  container: "Containers with a known tare",
};

/** What the column of figures is for; a container shows nothing: it is a known tare. */
const CAPABLE: Record<Reference["kind"], { title: string; says: (one: Reference) => string }> = {
  scale: {
    title: "What it can show",
    says: (one) => one.shows || (one.uncertainty ? `± ${one.uncertainty}` : "not said"),
  },
  weights: { title: "How sure", says: (one) => (one.uncertainty ? `± ${one.uncertainty}` : "not said") },
  container: { title: "Tare", says: (one) => one.tare },
};

/** Are my weights and scales themselves in date and good enough? */
export function References() {
  const found = useReferences();
  const me = useMe().data;
  const [changing, setChanging] = useState<Partial<Reference> | null>(null);
  const [tracing, setTracing] = useState<Reference | null>(null);
  if (!found.data) return found.error ? <Fault of={found.error} /> : <Waiting />;
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
            <Table responsive className="plain-table">
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
                      <b>{one.name}</b>
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
                    <td>{one.overdue ? <b className="wrong-text">{one.due_words}</b> : one.due_words}</td>
                    <td className="text-nowrap">
                      <Button variant="link" onClick={() => setTracing(one)} aria-label={`Jobs with ${one.name}`}>
                        Jobs
                      </Button>
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
      {tracing && <Trace reference={tracing} onDone={() => setTracing(null)} />}
    </Page>
  );
}

/** From a reference to all jobs that used it, so that a bad one can be followed up. */
function Trace({ reference, onDone }: { reference: Reference; onDone: () => void }) {
  const found = useInfiniteQuery({
    queryKey: ["trace", reference.id],
    queryFn: ({ pageParam }) =>
      asked(
        api.GET("/api/references/{reference_id}/jobs", {
          params: { path: { reference_id: reference.id }, query: { before: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => (page.length === FULL_PAGE ? pages.length * FULL_PAGE : undefined),
  });
  const jobs = found.data?.pages.flat();
  return (
    <Modal show onHide={onDone} size="lg" scrollable>
      <Modal.Header closeButton>
        <Modal.Title>Jobs that used {reference.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Fault of={found.error} />
        {jobs?.length === 0 && <p>None yet.</p>}
        <ul className="list-unstyled">
          {jobs?.map((job) => (
            <li key={job.job} className="mb-2">
              <Link to={job.record ? `/records/${job.record}` : `/jobs/${job.job}`}>
                {job.system}, {job.title.toLowerCase()}
              </Link>{" "}
              <span className="soft">
                {day(job.at)}, {job.outcome}
              </span>
            </li>
          ))}
        </ul>
        {found.hasNextPage && (
          <Button variant="link" onClick={() => found.fetchNextPage()}>
            Earlier
          </Button>
        )}
      </Modal.Body>
    </Modal>
  );
}

type Field = "division" | "range" | "uncertainty" | "nominal" | "tare";

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
  container: [["tare", "Tare, such as 82.4 kg"]],
};

function ReferenceForm({ reference, onDone }: { reference: Partial<Reference>; onDone: () => void }) {
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
  });
  const keep = async () => {
    const body = { ...given, due: given.due || null };
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
            {FIELDS[given.kind].map(([key, label]) => (
              <TextField key={key} label={label} {...common(key)} />
            ))}
            <TextField label="Certificate number" {...common("certificate")} />
            <TextField label="To be checked again by" type="date" {...common("due")} />
            <TextField label="Who checks it" {...common("checked_by")} />
            <TextField label="Who lends it, if it is not your own" {...common("lent_by")} />
          </>
        );
      }}
    </DialogForm>
  );
}

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import Table from "react-bootstrap/Table";
import { Link } from "react-router";
import { api, asked, Problem, type Schemas } from "../api/client";
import { useMe, useReferences } from "../api/queries";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day } from "../ui/words";

type Reference = Schemas["ReferenceView"];

const KINDS: Record<string, string> = {
  scale: "Reference scales",
  weights: "Test weights",
  container: "Containers with a known tare",
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
      {Object.entries(KINDS).map(([kind, title]) => {
        const rows = found.data.filter((one) => one.kind === kind);
        if (!rows.length) return null;
        return (
          <section key={kind}>
            <h2>{title}</h2>
            <Table responsive className="plain-table">
              <thead>
                <tr>
                  <th>Name</th>
                  <th>What it can show</th>
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
                        {[
                          one.division && `division ${one.division}`,
                          one.range && `to ${one.range}`,
                          one.nominal,
                          one.tare && `tare ${one.tare}`,
                        ]
                          .filter(Boolean)
                          .join(", ")}
                      </div>
                    </td>
                    <td>{one.shows || (one.uncertainty ? `± ${one.uncertainty}` : "–")}</td>
                    <td>
                      {one.certificate || "–"}
                      <div className="soft">
                        {[one.checked_by, one.lent_by && `lent by ${one.lent_by}`].filter(Boolean).join(", ")}
                      </div>
                    </td>
                    <td>
                      {one.overdue ? <b className="wrong-text">{one.due_words}</b> : one.due_words}
                      {one.due && <div className="soft">{day(one.due)}</div>}
                    </td>
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
  const jobs = useQuery({
    queryKey: ["trace", reference.id],
    queryFn: () =>
      asked(api.GET("/api/references/{reference_id}/jobs", { params: { path: { reference_id: reference.id } } })),
  });
  return (
    <Modal show onHide={onDone} size="lg" scrollable>
      <Modal.Header closeButton>
        <Modal.Title>Jobs that used {reference.name}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Fault of={jobs.error} />
        {jobs.data?.length === 0 && <p>None yet.</p>}
        <ul className="list-unstyled">
          {jobs.data?.map((job) => (
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
      </Modal.Body>
    </Modal>
  );
}

const FIELDS: Record<string, [string, string][]> = {
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
  const [given, setGiven] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      [
        "kind",
        "name",
        "division",
        "range",
        "uncertainty",
        "nominal",
        "tare",
        "certificate",
        "due",
        "checked_by",
        "lent_by",
      ].map((key) => [key, String(reference[key as keyof Reference] ?? "")]),
    ),
  );
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    const body = { ...given, due: given.due || null } as Schemas["ReferenceIn"];
    try {
      if (reference.id)
        await asked(
          api.PUT("/api/references/{reference_id}", { params: { path: { reference_id: reference.id } }, body }),
        );
      else await asked(api.POST("/api/references", { body }));
      void cache.invalidateQueries({ queryKey: ["references"] });
      onDone();
    } catch (raised) {
      setFault(raised);
    }
  };
  const field = (key: string, label: string, type = "text") => (
    <Form.Group key={key} className="mb-3" controlId={`reference-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        type={type}
        value={given[key]}
        isInvalid={!!problem?.at(key)}
        onChange={(event) => setGiven({ ...given, [key]: event.target.value })}
      />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <Modal show onHide={onDone} centered>
      <Form onSubmit={keep}>
        <Modal.Header closeButton>
          <Modal.Title>{reference.id ? reference.name : "Add a reference"}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {problem && !problem.errors.length && <Fault of={fault} />}
          <Form.Group className="mb-3" controlId="reference-kind">
            <Form.Label>Kind</Form.Label>
            <Form.Select value={given.kind} onChange={(event) => setGiven({ ...given, kind: event.target.value })}>
              {Object.entries(KINDS).map(([kind, words]) => (
                <option key={kind} value={kind}>
                  {words}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          {field("name", "Name")}
          {FIELDS[given.kind ?? "scale"]!.map(([key, label]) => field(key, label))}
          {field("certificate", "Certificate number")}
          {field("due", "To be checked again by", "date")}
          {field("checked_by", "Who checks it")}
          {field("lent_by", "Who lends it, if it is not your own")}
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit">Keep</Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}

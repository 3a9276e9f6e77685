import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Table from "react-bootstrap/Table";
import { Link, useParams } from "react-router";
import { api, asFile, asked, type Schemas } from "../api/client";
import { FULL_PAGE, useMe, useReferences } from "../api/queries";
import { Calls } from "../log/Calls";
import { FactorChange } from "../plant/words";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { FileButton } from "../ui/FileButton";
import { NotYet, Page } from "../ui/Layout";
import { TextField } from "../ui/TextField";
import { day, moment } from "../ui/words";
import { CheckChart } from "./CheckChart";
import { ReferenceForm } from "./References";

type Reference = Schemas["ReferenceView"];

/** One reference: what it can show, whether its check mass holds, its papers, and every job that rests on it. */
export function ReferencePage() {
  const { id = "" } = useParams();
  const found = useReferences();
  const me = useMe().data;
  const [changing, setChanging] = useState(false);
  const one = found.data?.find((reference) => reference.id === id);
  if (!found.data) return <NotYet error={found.error} />;
  if (!one)
    return (
      <Page title="Reference">
        <h1>There is no such reference here</h1>
        <Link to="/references">To the references</Link>
      </Page>
    );
  const figures = [
    ["Division", one.division],
    ["Range", one.range],
    ["Mass", one.nominal],
    ["Tare", one.tare],
    ["Marked", one.label],
    ["Expanded uncertainty", one.uncertainty && `± ${one.uncertainty}`],
    ["Certificate", one.certificate],
    ["Checked by", one.checked_by],
    ["Lent by", one.lent_by],
  ].filter(([, text]) => text);
  return (
    <Page title={one.name}>
      <h1>
        {one.name}
        <small>{one.overdue ? <b className="wrong-text">{one.due_words}</b> : one.due_words}</small>
      </h1>
      <p className="mb-1">
        <a href={`/api/references/${one.id}/label.pdf`}>Label with its code</a>
      </p>
      {one.shows && <p>{one.shows[0]!.toUpperCase() + one.shows.slice(1)}.</p>}
      {one.system && (
        <p>
          What it hands down comes from <Link to={`/systems/${one.system}`}>its latest record</Link>.
        </p>
      )}
      <div className="system-grid">
        <Trace reference={one} />
        <div>
          <section>
            <h2>On record</h2>
            <dl className="plates">
              {figures.map(([name, text]) => (
                <div key={name} style={{ display: "contents" }}>
                  <dt>{name}</dt>
                  <dd>{text}</dd>
                </div>
              ))}
            </dl>
            {one.weights.length > 0 && <Weights weights={one.weights} />}
            {me?.leads && (
              <Button variant="outline-primary" className="mt-3" onClick={() => setChanging(true)}>
                Change what is on record
              </Button>
            )}
          </section>
          {one.kind === "scale" && <Checks reference={one} />}
          <Kept reference={one} leads={!!me?.leads} />
        </div>
      </div>
      {changing && <ReferenceForm reference={one} onDone={() => setChanging(false)} />}
    </Page>
  );
}

function Weights({ weights }: { weights: Schemas["WeightRow"][] }) {
  const today = new Date().toLocaleDateString("sv");
  return (
    <Table className="plain-table mt-2">
      <thead>
        <tr>
          <th>Marked</th>
          <th className="num">Mass</th>
          <th className="num">±</th>
          <th>In date until</th>
        </tr>
      </thead>
      <tbody>
        {weights.map((one) => (
          <tr key={one.label}>
            <td>{one.label}</td>
            <td className="num figure-text">{one.nominal}</td>
            <td className="num figure-text">{one.uncertainty || "–"}</td>
            <td className={one.due && one.due < today ? "wrong-text" : undefined}>
              {one.due ? day(one.due) : "as the set"}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** From a reference to all jobs that used it, with what they decided, so that a bad one can be followed up. */
function Trace({ reference }: { reference: Reference }) {
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
    <section>
      <h2>
        Every job that rests on it
        <small className="ms-3">
          <a href={`/api/log.csv?reference=${reference.id}`}>CSV</a> ·{" "}
          <a href={`/api/log.xlsx?reference=${reference.id}`}>XLSX</a>
        </small>
      </h2>
      <Fault of={found.error} />
      {jobs?.length === 0 && <p>None yet.</p>}
      {!!jobs?.length && (
        <Table responsive className="plain-table">
          <thead>
            <tr>
              <th>When</th>
              <th>
                <span className="visually-hidden">Call as found, and as left</span>
              </th>
              <th>System</th>
              <th>Decided</th>
              <th className="num">Factor</th>
            </tr>
          </thead>
          <tbody>
            {jobs.map((job) => (
              <tr key={job.job}>
                <td className="text-nowrap">
                  {day(job.at, job.time_zone)}
                  <div>
                    <Link to={job.record ? `/records/${job.record}` : `/jobs/${job.job}`}>
                      {job.number ? `No. ${job.number}` : "open"}
                    </Link>
                  </div>
                </td>
                <td>
                  <Calls done={job} />
                </td>
                <td>
                  {job.system}
                  <div className="soft">
                    {job.title}, {job.site}
                  </div>
                </td>
                <td>
                  {job.outcome}
                  {job.put_right && <b className="provisional">put right since</b>}
                  <div className="soft">{job.by}</div>
                </td>
                <td className="num figure-text">
                  <FactorChange done={job} />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {found.hasNextPage && (
        <Button variant="outline-primary" onClick={() => found.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </section>
  );
}

/** The log of its check mass, with its chart. */
function Checks({ reference }: { reference: Reference }) {
  const cache = useQueryClient();
  const params = { path: { reference_id: reference.id } };
  const found = useQuery({
    queryKey: ["checks", reference.id],
    queryFn: () => asked(api.GET("/api/references/{reference_id}/checks", { params })),
  });
  const [given, setGiven] = useState<{ mass: string; shown: string; note: string } | null>(null);
  const checks = found.data ?? [];
  const latest = checks[0];
  const keep = async () => {
    const body = { id: crypto.randomUUID(), ...given! };
    await asked(api.POST("/api/references/{reference_id}/checks", { params, body }));
    void cache.invalidateQueries({ queryKey: ["checks", reference.id] });
    void cache.invalidateQueries({ queryKey: ["references"] });
  };
  return (
    <section>
      <h2>Check mass</h2>
      {latest ? (
        <p className={latest.holds ? "good-text" : "wrong-text"}>
          {moment(latest.at)}: {latest.shown} with {latest.mass} on it, {latest.holds ? "holds" : "off"}.
        </p>
      ) : (
        <p className="soft">Lay a known mass on it each day before it is used, and write down what it shows.</p>
      )}
      {checks.length > 1 && <CheckChart checks={checks} division={reference.division} />}
      <Button variant="outline-primary" onClick={() => setGiven({ mass: latest?.mass ?? "", shown: "", note: "" })}>
        Look at it now
      </Button>
      {given && (
        <DialogForm title={`Check mass on ${reference.name}`} keep="Keep" onKeep={keep} onDone={() => setGiven(null)}>
          {(problem) => {
            const common = (key: keyof typeof given) => ({
              name: key,
              value: given[key],
              onChange: (value: string) => setGiven({ ...given, [key]: value }),
              problem,
            });
            return (
              <>
                <TextField label="What lies on it, such as 500 kg" {...common("mass")} />
                <TextField label="What it shows" {...common("shown")} />
                <TextField label="Note" long={200} {...common("note")} />
              </>
            );
          }}
        </DialogForm>
      )}
    </section>
  );
}

/** Certificates and photographs that are kept with it. */
function Kept({ reference, leads }: { reference: Reference; leads: boolean }) {
  const cache = useQueryClient();
  const path = { reference_id: reference.id };
  const found = useQuery({
    queryKey: ["reference-attachments", reference.id],
    queryFn: () => asked(api.GET("/api/references/{reference_id}/attachments", { params: { path } })),
  });
  const [fault, setFault] = useState<unknown>(null);
  const add = async (file: File) => {
    setFault(null);
    try {
      const query = { id: crypto.randomUUID(), name: file.name };
      await asked(api.POST("/api/references/{reference_id}/attachments", { params: { path, query }, ...asFile(file) }));
      void cache.invalidateQueries({ queryKey: ["reference-attachments", reference.id] });
    } catch (raised) {
      setFault(raised);
    }
  };
  if (!leads && !found.data?.length) return null;
  return (
    <section>
      <h2>Certificates and photographs</h2>
      {found.data?.map((one) => (
        <div key={one.id} className="cell-row">
          <a href={`/api/attachments/${one.id}/file`}>{one.name}</a>
          <span className="soft">{day(one.at)}</span>
        </div>
      ))}
      {leads && (
        <FileButton accept="image/*,application/pdf" onFile={(file) => void add(file)}>
          Add a certificate or photograph
        </FileButton>
      )}
      <Fault of={fault} />
    </section>
  );
}

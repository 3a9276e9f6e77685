import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import Table from "react-bootstrap/Table";
import { api, asked, Problem, type Schemas } from "../api/client";
import { useMe, useProfiles, useRound } from "../api/queries";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { Instruments } from "./Instruments";

/** The people and the limits of an organisation, for its leads; one's own password for everyone. */
export function People() {
  const me = useMe().data;
  return (
    <Page title="People and limits">
      <h1>{me?.leads ? "People and limits" : "Password"}</h1>
      {me?.leads && <Everyone />}
      {me?.leads && <Limits />}
      {me?.leads && <Instruments />}
      <Password />
    </Page>
  );
}

const ROLES: Record<string, string> = {
  technician: "technician: the whole bench",
  lead: "lead: also limits, references, people",
  reader: "reader: the log of the sites given",
};

function Everyone() {
  const found = useQuery({ queryKey: ["people"], queryFn: () => asked(api.GET("/api/people")) });
  const [changing, setChanging] = useState<Partial<Schemas["PersonView"]> | null>(null);
  return (
    <section>
      <h2>People</h2>
      <Table responsive className="plain-table">
        <thead>
          <tr>
            <th>Name</th>
            <th>Address</th>
            <th>Role</th>
            <th>
              <span className="visually-hidden">Acts</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {found.data?.map((one) => (
            <tr key={one.username}>
              <td>{one.name}</td>
              <td>{one.username}</td>
              <td>{ROLES[one.role]}</td>
              <td className="num">
                <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.name}`}>
                  Change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Button variant="outline-primary" className="mt-2" onClick={() => setChanging({ role: "technician", sites: [] })}>
        Add someone
      </Button>
      {changing && <PersonForm person={changing} onDone={() => setChanging(null)} />}
    </section>
  );
}

function PersonForm({ person, onDone }: { person: Partial<Schemas["PersonView"]>; onDone: () => void }) {
  const cache = useQueryClient();
  const sites = useRound().data?.sites ?? [];
  const [given, setGiven] = useState({
    username: person.username ?? "",
    name: person.name ?? "",
    role: person.role ?? "technician",
    sites: person.sites ?? [],
    password: "",
  });
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const done = () => {
    void cache.invalidateQueries({ queryKey: ["people"] });
    onDone();
  };
  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      await asked(api.POST("/api/people", { body: given }));
      done();
    } catch (raised) {
      setFault(raised);
    }
  };
  const part = async () => {
    try {
      await asked(api.DELETE("/api/people/{username}", { params: { path: { username: given.username } } }));
      done();
    } catch (raised) {
      setFault(raised);
    }
  };
  const text = (key: "username" | "name" | "password", label: string, type = "text") => (
    <Form.Group className="mb-3" controlId={`person-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        type={type}
        value={given[key]}
        disabled={key === "username" && !!person.username}
        autoComplete="off"
        onChange={(event) => setGiven({ ...given, [key]: event.target.value })}
      />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <Modal show onHide={onDone} centered>
      <Form onSubmit={keep}>
        <Modal.Header closeButton>
          <Modal.Title>{person.name ?? "Add someone"}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {problem && !problem.errors.length && <Fault of={fault} />}
          {text("username", "Address that they sign in with", "email")}
          {text("name", "Name")}
          {!person.username && text("password", "First password, ten characters or more", "password")}
          <Form.Group className="mb-3" controlId="person-role">
            <Form.Label>Role</Form.Label>
            <Form.Select value={given.role} onChange={(event) => setGiven({ ...given, role: event.target.value })}>
              {Object.entries(ROLES).map(([role, words]) => (
                <option key={role} value={role}>
                  {words}
                </option>
              ))}
            </Form.Select>
            {problem?.at("role") && <p className="wrong-text">{problem.at("role")}</p>}
          </Form.Group>
          {given.role === "reader" &&
            sites.map((site) => (
              <Form.Check
                key={site.id}
                id={`person-site-${site.id}`}
                label={site.name}
                checked={given.sites.includes(site.id)}
                onChange={(event) =>
                  setGiven({
                    ...given,
                    sites: event.target.checked
                      ? [...given.sites, site.id]
                      : given.sites.filter((one) => one !== site.id),
                  })
                }
              />
            ))}
        </Modal.Body>
        <Modal.Footer>
          {person.username && (
            <Button variant="link" onClick={part}>
              Take out of the organisation
            </Button>
          )}
          <Button type="submit">Keep</Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}

function Limits() {
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
  });
  const [problem, setProblem] = useState<Problem | null>(null);
  const keep = async (event: React.FormEvent) => {
    event.preventDefault();
    const body = {
      ...given,
      minimum_runs: Number(given.minimum_runs),
      accept: asLimit(accept),
    } as Schemas["ProfileIn"];
    try {
      await asked(api.PUT("/api/profiles/{key}", { params: { path: { key: profile.key } }, body }));
      void cache.invalidateQueries({ queryKey: ["profiles"] });
      onDone();
    } catch (raised) {
      if (raised instanceof Problem) setProblem(raised);
    }
  };
  const field = (key: "repeat" | "minimum_runs" | "plausible", label: string) => (
    <Form.Group className="mb-3" controlId={`limit-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control value={given[key]} onChange={(event) => setGiven({ ...given, [key]: event.target.value })} />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <Modal show onHide={onDone} centered>
      <Form onSubmit={keep}>
        <Modal.Header closeButton>
          <Modal.Title>{profile.title}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <Form.Group className="mb-3" controlId="limit-accept">
            <Form.Label>Left alone within</Form.Label>
            <Form.Control value={accept} onChange={(event) => setAccept(event.target.value)} />
            <Form.Text>such as 0.5 %, 150 kg, or: 1 % or 150 kg, the smaller</Form.Text>
            {problem?.at("accept") && <p className="wrong-text">{problem.at("accept")}</p>}
          </Form.Group>
          {field("repeat", "Three runs repeat within")}
          {field("minimum_runs", "Runs at least")}
          {field("plausible", "Plausible to")}
        </Modal.Body>
        <Modal.Footer>
          <Button type="submit">Keep</Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}

function Password() {
  const [given, setGiven] = useState({ old: "", new: "" });
  const [said, setSaid] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const change = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      await asked(api.POST("/api/me/password", { body: given }));
      setProblem(null);
      setSaid("Changed. Your other devices are signed out.");
      setGiven({ old: "", new: "" });
    } catch (raised) {
      setSaid("");
      if (raised instanceof Problem) setProblem(raised);
    }
  };
  const field = (key: "old" | "new", label: string, complete: string) => (
    <Form.Group className="mb-3" controlId={`password-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control
        type="password"
        autoComplete={complete}
        value={given[key]}
        onChange={(event) => setGiven({ ...given, [key]: event.target.value })}
      />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <section>
      <h2>Your password</h2>
      <Form onSubmit={change} style={{ maxWidth: 420 }}>
        {field("old", "Present password", "current-password")}
        {field("new", "New password, ten characters or more", "new-password")}
        <Button type="submit" variant="outline-primary">
          Change it
        </Button>
        {said && <p role="status">{said}</p>}
      </Form>
    </section>
  );
}

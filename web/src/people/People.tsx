import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Table from "react-bootstrap/Table";
import { Address } from "../account/Address";
import { Factors } from "../account/Factors";
import { Houses } from "../account/Houses";
import { api, asked, Problem, type Schemas } from "../api/client";
import { useMe, useRound } from "../api/queries";
import { ByMail } from "../mail/ByMail";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { ChoiceField, Said, TextField } from "../ui/TextField";
import { day } from "../ui/words";
import { Archives } from "./Archives";
import { Instruments } from "./Instruments";
import { Limits } from "./Limits";
import { Sessions } from "./Sessions";

/** The people and the limits of an organisation, for its leads; one's own password for everyone. */
export function People() {
  const me = useMe().data;
  return (
    <Page title="People and limits">
      <h1>{me?.leads ? "People and limits" : "Your account, devices, mail"}</h1>
      {me?.leads && <Everyone />}
      {me?.leads && <Houses />}
      {me?.leads && <Limits />}
      {me?.leads && <Instruments />}
      <ByMail />
      <Address />
      <Password />
      <Factors />
      <Sessions />
      <Archives />
    </Page>
  );
}

type Role = Schemas["PersonView"]["role"];

const ROLES: Record<Role, string> = {
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
              <td>{one.invited ? <Waits until={one.until} /> : one.name}</td>
              <td>{one.username}</td>
              <td>{ROLES[one.role]}</td>
              <td className="num">
                <Button
                  variant="link"
                  onClick={() => setChanging(one)}
                  aria-label={`Change ${one.name || one.username}`}
                >
                  Change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Button variant="outline-primary" className="mt-2" onClick={() => setChanging({ role: "technician", sites: [] })}>
        Invite someone
      </Button>
      {changing && <PersonForm person={changing} onDone={() => setChanging(null)} />}
    </section>
  );
}

/** That somebody was invited and has not come, or that their link has ended. */
function Waits({ until }: { until?: string | null }) {
  const ended = !until || new Date(until) < new Date();
  return <span className="soft">{ended ? "invited; the link has ended" : `invited, until ${day(until)}`}</span>;
}

function PersonForm({ person, onDone }: { person: Partial<Schemas["PersonView"]>; onDone: () => void }) {
  const cache = useQueryClient();
  const sites = useRound().data?.sites ?? [];
  const [given, setGiven] = useState({
    username: person.username ?? "",
    name: person.name || (person.invited ? (person.username ?? "") : ""),
    role: person.role ?? "technician",
    sites: person.sites ?? [],
  });
  const [link, setLink] = useState("");
  const known = () => void cache.invalidateQueries({ queryKey: ["people"] });
  const keep = async () => {
    const kept = await asked(api.POST("/api/people", { body: given }));
    known();
    if (kept.link) setLink(kept.link);
    else onDone();
  };
  const lift = useMutation({
    mutationFn: () =>
      asked(api.DELETE("/api/people/{username}/second-factor", { params: { path: { username: given.username } } })),
    onSuccess: (said) => setLink(said.link),
  });
  const part = useMutation({
    mutationFn: () => asked(api.DELETE("/api/people/{username}", { params: { path: { username: given.username } } })),
    onSuccess: () => {
      known();
      onDone();
    },
  });
  const unlock = useMutation({
    mutationFn: () =>
      asked(api.POST("/api/people/{username}/unlock", { params: { path: { username: given.username } } })),
  });
  const turn = (site: string, on: boolean) =>
    setGiven({ ...given, sites: on ? [...given.sites, site] : given.sites.filter((one) => one !== site) });
  if (link) return <HandedOver name={given.name} link={link} lost={lift.isSuccess} onDone={onDone} />;
  return (
    <DialogForm
      title={person.name || person.username || "Invite someone"}
      keep={person.invited ? "Invite again" : person.username ? "Keep" : "Invite"}
      onKeep={keep}
      onDone={() => {}}
      onLeave={onDone}
      beside={
        person.username && (
          <>
            {!person.invited && (
              <Button variant="link" onClick={() => unlock.mutate()} disabled={unlock.isSuccess}>
                {unlock.isSuccess ? "May sign in again" : "Let sign in again at once"}
              </Button>
            )}
            {person.factor && (
              <Button variant="link" onClick={() => lift.mutate()} disabled={lift.isSuccess}>
                {lift.isSuccess ? "They are written to: it goes once they say so" : "Second factor is lost"}
              </Button>
            )}
            <Button variant="link" onClick={() => part.mutate()}>
              {person.invited ? "Take the invitation back" : "Take out of the organisation"}
            </Button>
          </>
        )
      }
    >
      {(problem) => {
        const common = (key: "username" | "name" | "role") => ({
          name: key,
          value: given[key],
          onChange: (value: string) => setGiven({ ...given, [key]: value }),
          problem,
        });
        return (
          <>
            <Fault of={part.error ?? lift.error} />
            <TextField
              label="Address that they sign in with"
              type="email"
              disabled={!!person.username}
              {...common("username")}
            />
            {!person.invited && <TextField label="Name" {...common("name")} />}
            {!person.username && <p className="soft">They come by a link, and choose their own password.</p>}
            <ChoiceField label="Role" options={Object.entries(ROLES)} {...common("role")} />
            {given.role === "reader" &&
              sites.map((site) => (
                <Form.Check
                  key={site.id}
                  id={`person-site-${site.id}`}
                  label={site.name}
                  checked={given.sites.includes(site.id)}
                  onChange={(event) => turn(site.id, event.target.checked)}
                />
              ))}
          </>
        );
      }}
    </DialogForm>
  );
}

interface LinkProps {
  name: string;
  link: string;
  lost: boolean;
  onDone: () => void;
}

/** A link for somebody, where no mail is sent: of an invitation, or of a second factor that they lost. */
function HandedOver({ name, link, lost, onDone }: LinkProps) {
  return (
    <DialogForm
      title={lost ? `${name} lost their second factor` : `${name} is invited`}
      keep="It is handed over"
      onKeep={async () => {}}
      onDone={onDone}
    >
      {() => (
        <>
          <p>
            No mail is sent from here. Hand them this link, and nobody else: it is shown this once and good for{" "}
            {lost ? "three days. By it they say that it is so, and their second factor is taken away:" : "seven days."}
          </p>
          <p>
            <code className="whole-link">{link}</code>
          </p>
        </>
      )}
    </DialogForm>
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
      <Said problem={problem} path={key} />
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

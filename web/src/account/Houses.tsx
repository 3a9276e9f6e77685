import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, asked, Problem, type Schemas } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { ChoiceField, Said, TextField } from "../ui/TextField";

type House = Schemas["HouseView"];
type Role = House["role"];
const KEY = ["houses"];
const ROLES: [Role, string][] = [
  ["technician", "technician"],
  ["lead", "lead"],
  ["reader", "reader"],
];

/** How an organisation's people sign in: of whom a second factor is asked, and its own way. For its leads. */
export function Houses() {
  const found = useQuery({ queryKey: KEY, queryFn: () => asked(api.GET("/api/houses")) });
  const [changing, setChanging] = useState<Partial<House> | null>(null);
  return (
    <section>
      <h2>How people sign in</h2>
      <Demand />
      {found.data?.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            {one.name}
            <small className="soft d-block">
              {one.domains.join(", ")}
              {one.only && " · only this way"}
              {one.takes_in && ` · takes in who comes, as ${one.role}`}
            </small>
          </span>
          <Button variant="link" onClick={() => setChanging(one)} aria-label={`Change ${one.name}`}>
            Change
          </Button>
        </div>
      ))}
      <Fault of={found.error} />
      <Button variant="outline-primary" onClick={() => setChanging({})}>
        Add your organisation’s own way
      </Button>
      {changing && <HouseForm house={changing} onDone={() => setChanging(null)} />}
    </section>
  );
}

type Of = Schemas["Demand"]["of"];

function Demand() {
  const cache = useQueryClient();
  const key = ["second factor demanded"];
  const found = useQuery({ queryKey: key, queryFn: () => asked(api.GET("/api/second-factor")) });
  const [chosen, setChosen] = useState<Of | null>(null);
  const keeping = useMutation({
    mutationFn: (of: Of) => asked(api.PUT("/api/second-factor", { body: { of } })),
    onSuccess: (answer) => cache.setQueryData(key, answer),
    onSettled: () => setChosen(null),
  });
  const problem = keeping.error instanceof Problem ? keeping.error : null;
  return (
    <Form.Group className="mb-3 demand" controlId="demand">
      <Form.Label>A second factor is asked of</Form.Label>
      <Form.Select
        value={chosen ?? found.data?.of ?? ""}
        onChange={(event) => {
          const of = event.target.value as Of;
          setChosen(of);
          keeping.mutate(of);
        }}
      >
        <option value="">nobody: each may have one</option>
        <option value="leads">leads</option>
        <option value="all">everybody</option>
      </Form.Select>
      <Said problem={problem} path="of" />
    </Form.Group>
  );
}

function HouseForm({ house, onDone }: { house: Partial<House>; onDone: () => void }) {
  const cache = useQueryClient();
  const [given, setGiven] = useState({
    name: house.name ?? "",
    server: house.server ?? "",
    client_id: house.client_id ?? "",
    secret: "",
    claim: house.claim ?? "",
  });
  const [domains, setDomains] = useState((house.domains ?? []).join(", "));
  const [only, setOnly] = useState(house.only ?? false);
  const [takesIn, setTakesIn] = useState(house.takes_in ?? false);
  const [role, setRole] = useState<Role>(house.role ?? "reader");
  const said = Object.entries(house.roles ?? {});
  const [words, setWords] = useState<Record<Role, string>>({
    technician: wordsOf(said, "technician"),
    lead: wordsOf(said, "lead"),
    reader: wordsOf(said, "reader"),
  });
  const keep = async () => {
    const body: Schemas["HouseIn"] = {
      ...given,
      domains: domains.split(/[\s,]+/).filter(Boolean),
      only,
      takes_in: takesIn,
      role,
      roles: given.claim
        ? Object.fromEntries(ROLES.flatMap(([key]) => split(words[key]).map((word) => [word, key])))
        : {},
    };
    const params = { path: { house_id: house.id ?? "" } };
    await asked(house.id ? api.PUT("/api/houses/{house_id}", { params, body }) : api.POST("/api/houses", { body }));
    void cache.invalidateQueries({ queryKey: KEY });
  };
  const end = useMutation({
    mutationFn: () => asked(api.DELETE("/api/houses/{house_id}", { params: { path: { house_id: house.id ?? "" } } })),
    onSuccess: () => {
      void cache.invalidateQueries({ queryKey: KEY });
      onDone();
    },
  });
  return (
    <DialogForm
      title={house.name ?? "Your organisation’s own way to sign in"}
      keep="Keep"
      onKeep={keep}
      onDone={onDone}
      wide
      beside={
        house.id && (
          <Button variant="link" onClick={() => end.mutate()}>
            End it
          </Button>
        )
      }
    >
      {(problem) => {
        const common = (name: keyof typeof given) => ({
          name,
          value: given[name],
          onChange: (value: string) => setGiven({ ...given, [name]: value }),
          problem,
        });
        const wrong = problem?.errors.find((one) => one.path.startsWith("domains"));
        return (
          <>
            <p>By OpenID Connect, with what your provider gave you for this application.</p>
            {house.back && (
              <p>
                Address that it sends people back to: <code>{house.back}</code>
              </p>
            )}
            <Fault of={end.error} />
            <TextField label="What people here call it" {...common("name")} />
            <TextField
              label="Address of the provider"
              hint="such as https://login.kelp.example"
              {...common("server")}
            />
            <TextField label="Name of the client" {...common("client_id")} />
            <TextField
              label="Secret of the client"
              type="password"
              hint={house.id ? "left empty, the one on record stays" : undefined}
              {...common("secret")}
            />
            <TextField
              name="domains"
              label="Addresses at"
              value={domains}
              onChange={setDomains}
              hint="domains, such as kelp.example; a lead has confirmed an address at each"
            />
            {wrong && (
              <p className="wrong-text" role="alert">
                {wrong.text}
              </p>
            )}
            <div className="ticks">
              <Form.Check
                id="house-only"
                label="Who has such an address comes only this way"
                checked={only}
                onChange={(event) => setOnly(event.target.checked)}
              />
              <Said problem={problem} path="only" />
              <Form.Check
                id="house-takes-in"
                label="Who comes is taken in without an invitation"
                checked={takesIn}
                onChange={(event) => setTakesIn(event.target.checked)}
              />
            </div>
            {takesIn && (
              <ChoiceField
                name="role"
                label="As"
                options={ROLES}
                value={role}
                onChange={(value) => setRole(value as Role)}
                problem={problem}
              />
            )}
            <TextField
              label="Field that says the role"
              hint="as the provider calls it, such as groups; empty where a lead says it"
              {...common("claim")}
            />
            {given.claim &&
              ROLES.map(([key, word]) => (
                <TextField
                  key={key}
                  name={`roles.${key}`}
                  label={`It makes a ${word} where it says`}
                  value={words[key]}
                  onChange={(value) => setWords({ ...words, [key]: value })}
                />
              ))}
          </>
        );
      }}
    </DialogForm>
  );
}

const split = (text: string) =>
  text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
const wordsOf = (said: [string, string][], role: Role) =>
  said
    .filter(([, one]) => one === role)
    .map(([word]) => word)
    .join(", ");

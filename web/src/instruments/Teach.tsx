import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked, Problem, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";
import { spoken } from "../ui/quantity";

type Pattern = Schemas["Pattern"];
type Role = "figure" | "unit" | "sign" | "steady";
type Span = [number, number];

const ROLES: { role: Role; words: string; asks: string }[] = [
  { role: "figure", words: "the figure", asks: "Which piece is the figure?" },
  { role: "unit", words: "its unit", asks: "Which piece is the unit?" },
  { role: "sign", words: "the sign", asks: "Which piece says that it is below zero?" },
  { role: "steady", words: "that it stands", asks: "Which piece says that it stands?" },
];

/** An instrument is taught by pointing: a line that it sent, and which piece of it is what; tried on the lines at once. */
export function Teach({ link }: { link: Schemas["LinkView"] }) {
  const cache = useQueryClient();
  const network = link.way === "network";
  const came = useQuery({
    queryKey: ["lines", link.id],
    queryFn: () => asked(api.GET("/api/links/{link_id}/lines", { params: { path: { link_id: link.id } } })),
    enabled: network,
    refetchInterval: 3_000,
  });
  const [typed, setTyped] = useState(link.pattern?.line ?? "");
  const [line, setLine] = useState(link.pattern?.line ?? "");
  const [spans, setSpans] = useState<Partial<Record<Role, Span>>>(() => pointedAt(link.pattern));
  const [steadyIs, setSteadyIs] = useState(link.pattern?.steady_is ?? "");
  const [fixedUnit, setFixedUnit] = useState(link.pattern?.fixed_unit ?? "");
  const [role, setRole] = useState<Role>("figure");
  const lines = network ? (came.data?.lines ?? []) : typed ? [typed] : [];
  const pattern: Pattern | null =
    line && spans.figure
      ? {
          line,
          figure: spans.figure,
          unit: spans.unit ?? null,
          sign: spans.sign ?? null,
          steady: spans.steady ?? null,
          fixed_unit: spans.unit ? "" : fixedUnit,
          steady_is: spans.steady ? steadyIs : "",
          minus: spans.sign ? line.slice(...spans.sign) : "-",
        }
      : null;
  const tried = useQuery({
    queryKey: ["tried", line, pattern, lines],
    queryFn: () =>
      asked(api.POST("/api/lines/tried", { body: { pattern, lines: line && !pattern ? [line, ...lines] : lines } })),
    placeholderData: (before) => before,
    enabled: lines.length > 0 || !!line,
  });
  const keep = useMutation({
    mutationFn: (given: Pattern | null) =>
      asked(
        api.PUT("/api/links/{link_id}/pattern", {
          params: { path: { link_id: link.id } },
          body: { pattern: given, lines },
        }),
      ),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["links"] }),
  });
  const take = (next: string) => {
    setLine(next);
    setSpans({});
    setRole("figure");
  };
  const point = (span: Span, text: string) => {
    const others = Object.entries(spans).filter(([key, held]) => key !== role && held?.[0] !== span[0]);
    const next = { ...Object.fromEntries(others), [role]: span } as Partial<Record<Role, Span>>;
    setSpans(next);
    if (role === "steady") setSteadyIs(text);
    // The next thing to point at is asked for by itself.
    const order: Role[] = ["figure", "unit", "steady", "sign"];
    const left = order.find((one) => !next[one] && one !== "sign");
    if (left) setRole(left);
  };
  const said = (one: Span) => (Object.keys(spans) as Role[]).find((key) => spans[key]?.[0] === one[0]);
  const faults = tried.data?.faults ?? [];
  const problem = keep.error instanceof Problem ? keep.error : null;
  return (
    <section className="teach" aria-label={`Teach ${link.name}`}>
      <h2>
        What {link.name} says
        <small>{came.data?.flooded && "it sends more than can be read; these are the newest"}</small>
      </h2>
      {network ? (
        <>
          {came.data?.fault && <p role="alert">{came.data.fault}</p>}
          {came.isPending && <p className="soft">Listening.</p>}
        </>
      ) : (
        <label className="teach-typed">
          <span>A line as the instrument sends it</span>
          <input
            className="form-control"
            value={typed}
            onChange={(event) => {
              setTyped(event.target.value);
              take(event.target.value);
            }}
          />
        </label>
      )}
      <div className="teach-grid">
        <div>
          <h3>Lines as they come</h3>
          <ul className="teach-lines">
            {(tried.data?.tried.length && !faults.length
              ? tried.data.tried
              : lines.map((one) => ({ line: one, read: null, fault: "" }))
            )
              .slice(-8)
              .map((one, at) => (
                <li key={at}>
                  <button
                    type="button"
                    onClick={() => take(one.line)}
                    title="Point at this line"
                    aria-pressed={one.line === line}
                  >
                    <code>{one.line}</code>
                  </button>
                  <span>
                    {one.read ? (
                      one.read.fault || (
                        <>
                          <b>{one.read.text}</b> {spoken(one.read.unit ?? "")}
                          {one.read.steady != null && <i>{one.read.steady ? "steady" : "moving"}</i>}
                        </>
                      )
                    ) : one.fault ? (
                      <span className="soft">not understood</span>
                    ) : null}
                  </span>
                </li>
              ))}
          </ul>
          <p className="soft">
            {pattern ? "What is made of them stands beside them." : "Press a line to point at it."}
          </p>
        </div>
        {line && (
          <div>
            <h3 id="teach-asks">{ROLES.find((one) => one.role === role)!.asks}</h3>
            <div className="teach-tokens" role="group" aria-labelledby="teach-asks">
              {tried.data?.tokens.map((one) =>
                one.kind === "space" ? (
                  <span key={one.start} className="teach-space">
                    {one.text}
                  </span>
                ) : (
                  <button
                    type="button"
                    key={one.start}
                    className={said([one.start, one.end]) ? `teach-is teach-${said([one.start, one.end])}` : undefined}
                    onClick={() => point([one.start, one.end], one.text)}
                  >
                    <code>{one.text}</code>
                    {said([one.start, one.end]) && (
                      <i>{ROLES.find((r) => r.role === said([one.start, one.end]))!.words}</i>
                    )}
                  </button>
                ),
              )}
            </div>
            <div className="teach-roles">
              {ROLES.map((one) => (
                <Button
                  key={one.role}
                  variant={role === one.role ? "primary" : "outline-primary"}
                  aria-pressed={role === one.role}
                  onClick={() => setRole(one.role)}
                >
                  {one.words}
                  {spans[one.role] && " ✓"}
                </Button>
              ))}
              {role !== "figure" && spans[role] && (
                <Button variant="link" onClick={() => setSpans({ ...spans, [role]: undefined })}>
                  It has none
                </Button>
              )}
            </div>
            {!spans.unit && (
              <label className="teach-typed">
                <span>It sends no unit; its figures are in</span>
                <input
                  className="form-control"
                  value={fixedUnit}
                  onChange={(event) => setFixedUnit(event.target.value)}
                />
              </label>
            )}
            {spans.steady && (
              <label className="teach-typed">
                <span>It stands when there it says</span>
                <input
                  className="form-control"
                  value={steadyIs}
                  onChange={(event) => setSteadyIs(event.target.value)}
                />
              </label>
            )}
            {faults.map((one) => (
              <p key={one.path + one.text} className="wrong-text" role="alert">
                {one.text}
              </p>
            ))}
          </div>
        )}
      </div>
      {problem ? (
        problem.errors.map((one) => (
          <p key={one.text} className="wrong-text">
            {one.text}
          </p>
        ))
      ) : (
        <Fault of={keep.error ?? tried.error} />
      )}
      <p className="truth-acts">
        <Button disabled={!pattern || faults.length > 0 || keep.isPending} onClick={() => keep.mutate(pattern)}>
          Keep what it was taught
        </Button>
        <Button variant="link" disabled={keep.isPending} onClick={() => keep.mutate(null)}>
          It speaks the simple format
        </Button>
        {keep.isSuccess && <span className="good-text">Kept.</span>}
      </p>
    </section>
  );
}

function pointedAt(pattern: Pattern | null | undefined): Partial<Record<Role, Span>> {
  if (!pattern) return {};
  const found: Partial<Record<Role, Span>> = {};
  for (const { role } of ROLES) {
    const span = pattern[role];
    if (span) found[role] = span as Span;
  }
  return found;
}

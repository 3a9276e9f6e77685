import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Fault, Waiting } from "../ui/Fault";
import { counted } from "../ui/words";
import { version } from "./version";

interface Licence {
  name: string;
  version: string;
  of: "page" | "server";
  licence: string;
  text: string;
}

/** The licences of what ships with the program, as its build gathered them. */
const licences = async (): Promise<Licence[]> => {
  const answer = await fetch("/static/licences.json");
  if (!answer.ok) throw new Error("The list of licences is not there. Build the page again.");
  return (await answer.json()) as Licence[];
};

const PLACES = { page: "In the page: fonts and scripts", server: "In the server" } as const;

/** Which version this is, and the licences of all that ships with it. */
export function About() {
  const found = useQuery({ queryKey: ["licences"], queryFn: licences, staleTime: Infinity });
  const [open, setOpen] = useState("");
  return (
    <>
      <title>About · Wary Beacon</title>
      <main className="page about">
        <h1>
          Wary Beacon <small>version {version()}</small>
        </h1>
        <p>
          <Link to="/">To the round</Link>
        </p>
        <p>
          What follows ships with it, each under the licence of those who made it. Its own licence is for its owner to
          choose.
        </p>
        <Fault of={found.error} />
        {found.isPending && <Waiting />}
        {(["page", "server"] as const).map((place) => {
          const listed = found.data?.filter((one) => one.of === place) ?? [];
          return listed.length ? (
            <section key={place}>
              <h2>
                {PLACES[place]} <small>{counted(listed.length, "package")}</small>
              </h2>
              <ul className="licences">
                {listed.map((one) => {
                  const key = `${place} ${one.name} ${one.version}`;
                  return (
                    <li key={key}>
                      <button
                        type="button"
                        aria-expanded={open === key}
                        onClick={() => setOpen(open === key ? "" : key)}
                      >
                        <b>{one.name}</b> {one.version} <span className="soft">{one.licence}</span>
                      </button>
                      {open === key && <pre tabIndex={0}>{one.text}</pre>}
                    </li>
                  );
                })}
              </ul>
            </section>
          ) : null;
        })}
      </main>
    </>
  );
}

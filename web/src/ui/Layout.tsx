import { version } from "../about/version";
import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useState } from "react";
import Dropdown from "react-bootstrap/Dropdown";
import { Link, NavLink, useNavigate } from "react-router";
import { api, asked, Problem } from "../api/client";
import { useMe } from "../api/queries";
import { forgotten } from "../api/session";
import { wiped } from "../job/kept";
import { Invitations } from "../people/Invitations";
import { Fault, Waiting } from "./Fault";
import { Signal } from "./Signal";

export const PAGES: { to: string; name: string; works: boolean; reads?: boolean }[] = [
  { to: "/", name: "Round", works: true },
  { to: "/systems", name: "Systems", works: true },
  { to: "/log", name: "Log", works: false },
  { to: "/due", name: "Your machines", works: false, reads: true },
  { to: "/references", name: "References", works: true },
  { to: "/sums", name: "Sums", works: true },
  { to: "/practice", name: "Practice", works: true },
];

export function Mark() {
  return (
    <svg viewBox="0 0 26 26" aria-hidden="true">
      <path d="M13 3 16 23H10Z" fill="currentColor" />
      <path d="M13 6 26 1V11Z" fill="var(--act)" />
      <path d="M7 23h12v3H7z" fill="currentColor" />
    </svg>
  );
}

/** The head of every page. A bench puts its own things between the name and the person. */
export function Top({ children, nav = true }: { children?: ReactNode; nav?: boolean }) {
  const me = useMe().data;
  return (
    <>
      <header className="top">
        <Link to="/" className="top-mark" aria-label="Wary Beacon: to the round">
          <Mark />
          {nav && <span>Wary Beacon</span>}
        </Link>
        {nav && (
          <nav className="top-nav" aria-label="Pages">
            {PAGES.filter((page) => (me?.works ? !page.reads : !page.works)).map((page) => (
              <NavLink key={page.to} to={page.to} end={page.to === "/"}>
                {page.name}
              </NavLink>
            ))}
          </nav>
        )}
        {children}
        <Who />
      </header>
      {nav && <Signal />}
      {nav && <Invitations />}
    </>
  );
}

const initials = (name: string) =>
  name
    .split(/\s+/)
    .map((word) => word[0])
    .slice(0, 2)
    .join("")
    .toUpperCase();

function Who() {
  const me = useMe().data;
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [dark, setDark] = useState(document.documentElement.dataset.bsTheme === "dark");
  if (!me) return null;

  const turn = () => {
    const theme = dark ? "light" : "dark";
    localStorage.setItem("theme", theme);
    document.documentElement.dataset.bsTheme = theme;
    setDark(!dark);
  };
  const change = async (organisation: string) => {
    await asked(api.PATCH("/api/me", { body: { organisation } }));
    // What the page holds is of the other organisation.
    await cache.resetQueries();
    navigate("/");
  };
  const leave = async (everywhere: boolean) => {
    // Out of reach the device forgets all the same, and the server hears of it later.
    let heard = true;
    try {
      await asked(everywhere ? api.POST("/api/sign-out-everywhere") : api.POST("/api/sign-out"));
    } catch (wrong) {
      if (everywhere || !(wrong instanceof Problem) || wrong.status > 0) throw wrong;
      heard = false;
    }
    await wiped(me.id);
    forgotten(heard);
    cache.clear();
    navigate("/sign-in");
  };
  return (
    <Dropdown align="end" className="who-menu top-who">
      <Dropdown.Toggle variant="link" aria-label={me.name}>
        <span className="who-name">{me.name}</span>
        <span className="who-short">{initials(me.name)}</span>
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <Dropdown.Item onClick={turn}>{dark ? "Light, for daylight" : "Dark, for a cab at night"}</Dropdown.Item>
        {me.works && (
          <Dropdown.Item as={Link} to="/write-up">
            Write up what is open
          </Dropdown.Item>
        )}
        {me.leads && (
          <Dropdown.Item as={Link} to="/week">
            The week
          </Dropdown.Item>
        )}
        <Dropdown.Item as={Link} to="/people">
          {me.leads ? "People, limits, mail" : "Password, devices, mail"}
        </Dropdown.Item>
        {me.leads && (
          <Dropdown.Item as={Link} to="/instruments">
            Instruments on the line
          </Dropdown.Item>
        )}
        {me.leads && (
          <Dropdown.Item as={Link} to="/programs">
            Other programs
          </Dropdown.Item>
        )}
        {me.memberships.length > 1 && (
          <>
            <Dropdown.Divider />
            {me.memberships.map((one) => (
              <Dropdown.Item key={one.id} active={one.chosen} onClick={() => void change(one.id)}>
                {one.organisation}
              </Dropdown.Item>
            ))}
          </>
        )}
        <Dropdown.Divider />
        <Dropdown.Item as={Link} to="/about">
          About, version {version()}
        </Dropdown.Item>
        <Dropdown.Item onClick={() => leave(false)}>Sign out</Dropdown.Item>
        <Dropdown.Item onClick={() => leave(true)}>Sign out on every device</Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** What stands while a page is fetched, and where it cannot be: the head with its places stays. */
export function NotYet({ error }: { error: unknown }) {
  if (!error) return <Waiting />;
  return (
    <Page title="Not shown">
      <Fault of={error} />
    </Page>
  );
}

export function Page({ children, title }: { children: ReactNode; title: string }) {
  return (
    <>
      <title>{`${title} · Wary Beacon`}</title>
      <Top />
      <main className="page">{children}</main>
    </>
  );
}

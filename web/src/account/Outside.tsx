import type { ReactNode } from "react";
import { Mark } from "../ui/Layout";

/** A page for somebody who is not signed in. */
export function Outside({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="sign-in">
      <title>{`${title} · Wary Beacon`}</title>
      <div className="top-mark fs-4 mb-4">
        <Mark />
        Wary Beacon
      </div>
      <h1 className="h4 mb-3">{title}</h1>
      {children}
    </main>
  );
}

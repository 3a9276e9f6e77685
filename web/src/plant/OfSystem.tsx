import type { ReactNode } from "react";
import { useParams } from "react-router";
import type { SystemView } from "../api/client";
import { useSystem } from "../api/queries";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";

interface OfSystemProps {
  title: string;
  children: (system: SystemView) => ReactNode;
}

/** A page about the system that its address names: what it shows once the system is there, or why it is not. */
export function OfSystem({ title, children }: OfSystemProps) {
  const { id = "" } = useParams();
  const found = useSystem(id);
  if (found.data) return children(found.data);
  if (!found.error) return <Waiting />;
  return (
    <Page title={title}>
      <Fault of={found.error} />
    </Page>
  );
}

import { type ReactNode, useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { Problem } from "../api/client";
import { Fault } from "./Fault";

interface Props {
  title: string;
  /** What the button that keeps it says. */
  keep: string;
  /** Keeps what was given; a Problem that it throws is said at its fields, and nothing that was typed is lost. */
  onKeep: () => Promise<unknown>;
  onDone: () => void;
  /** Leaves it without keeping anything, where that is something else than being done. */
  onLeave?: () => void;
  ready?: boolean;
  wide?: boolean;
  /** Another act beside keeping. */
  beside?: ReactNode;
  children: (problem: Problem | null) => ReactNode;
}

/** A form in a dialog: what was typed is kept, or it is said what is wrong with it. */
export function DialogForm({
  title,
  keep,
  onKeep,
  onDone,
  onLeave = onDone,
  ready = true,
  wide,
  beside,
  children,
}: Props) {
  const [fault, setFault] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const problem = fault instanceof Problem ? fault : null;
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => form.current?.querySelector<HTMLElement>("input:enabled, select:enabled")?.focus(), []);
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      await onKeep();
      onDone();
    } catch (raised) {
      setFault(raised);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal show onHide={onLeave} centered size={wide ? "lg" : undefined}>
      <Form onSubmit={submit} noValidate ref={form}>
        <Modal.Header closeButton>
          <Modal.Title>{title}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          {fault != null && !problem?.errors.length && <Fault of={fault} />}
          {children(problem)}
        </Modal.Body>
        <Modal.Footer>
          {beside}
          <Button type="submit" disabled={busy || !ready}>
            {keep}
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}

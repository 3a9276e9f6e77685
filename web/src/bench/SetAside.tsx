import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { useBench } from "./useJob";

/** Asks why a run is set aside. It stays on the record, with the reason. */
export function SetAside({ list, row, onDone }: { list: string; row: string; onDone: () => void }) {
  const bench = useBench();
  const [reason, setReason] = useState("");
  const number = bench.rows(list).findIndex((one) => one.row === row) + 1;
  const words = /\p{L}/u.test(reason);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (!words) return;
    bench.enter({ path: `${list}.${row}.set_aside`, text: reason.trim() });
    onDone();
  };
  return (
    <Modal show onHide={onDone} centered restoreFocus={false}>
      <Form onSubmit={submit}>
        <Modal.Header closeButton>
          <Modal.Title>Set run {number} aside</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <p>It no longer counts, and stays on the record with the reason.</p>
          <Form.Group controlId="aside-reason">
            <Form.Label>What happened to it?</Form.Label>
            <Form.Control
              autoFocus
              value={reason}
              maxLength={300}
              onChange={(event) => setReason(event.target.value)}
            />
            <Form.Text>In words, so that whoever reads the record can judge it.</Form.Text>
          </Form.Group>
        </Modal.Body>
        <Modal.Footer>
          <Button variant="link" onClick={onDone}>
            Leave it in
          </Button>
          <Button type="submit" disabled={!words}>
            Set aside
          </Button>
        </Modal.Footer>
      </Form>
    </Modal>
  );
}

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { useNavigate } from "react-router";
import { api, asked, Problem, type Schemas } from "../api/client";
import { Fault } from "../ui/Fault";

export const KINDS: Record<string, string> = {
  belt: "Belt scale",
  chain: "Chain conveyor scale",
  vessel: "Hopper, silo or tank",
  platform: "Platform scale",
  pads: "Wheel pads",
  bench: "Bench channel",
};

export function NewSystem({ sites }: { sites: Schemas["SiteView"][] }) {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [show, setShow] = useState(false);
  const [given, setGiven] = useState({ name: "", site: sites[0]?.id ?? "", kind: "belt", material: "", channels: "" });
  const [fault, setFault] = useState<unknown>(null);
  const problem = fault instanceof Problem ? fault : null;
  const add = async (event: React.FormEvent) => {
    event.preventDefault();
    try {
      const system = await asked(
        api.POST("/api/systems", {
          body: {
            ...given,
            channels: given.channels
              .split(",")
              .map((name) => name.trim())
              .filter(Boolean),
          },
        }),
      );
      void cache.invalidateQueries({ queryKey: ["round"] });
      navigate(`/systems/${system.id}`);
    } catch (raised) {
      setFault(raised);
    }
  };
  const field = (key: "name" | "material" | "channels", label: string) => (
    <Form.Group className="mb-3" controlId={`new-${key}`}>
      <Form.Label>{label}</Form.Label>
      <Form.Control value={given[key]} onChange={(event) => setGiven({ ...given, [key]: event.target.value })} />
      {problem?.at(key) && <p className="wrong-text">{problem.at(key)}</p>}
    </Form.Group>
  );
  return (
    <>
      <Button variant="outline-primary" onClick={() => setShow(true)}>
        Add a system
      </Button>
      <Modal show={show} onHide={() => setShow(false)} centered>
        <Form onSubmit={add}>
          <Modal.Header closeButton>
            <Modal.Title>Add a system</Modal.Title>
          </Modal.Header>
          <Modal.Body>
            {problem && !problem.errors.length && <Fault of={fault} />}
            {field("name", "Name, as it is called on site")}
            <Form.Group className="mb-3" controlId="new-kind">
              <Form.Label>Kind</Form.Label>
              <Form.Select value={given.kind} onChange={(event) => setGiven({ ...given, kind: event.target.value })}>
                {Object.entries(KINDS).map(([kind, words]) => (
                  <option key={kind} value={kind}>
                    {words}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
            <Form.Group className="mb-3" controlId="new-site">
              <Form.Label>Site</Form.Label>
              <Form.Select value={given.site} onChange={(event) => setGiven({ ...given, site: event.target.value })}>
                {sites.map((site) => (
                  <option key={site.id} value={site.id}>
                    {site.name}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
            {field("material", "What it weighs")}
            {given.kind === "pads" && field("channels", "Its channels, with commas between: left, right")}
          </Modal.Body>
          <Modal.Footer>
            <Button type="submit">Add it</Button>
          </Modal.Footer>
        </Form>
      </Modal>
    </>
  );
}

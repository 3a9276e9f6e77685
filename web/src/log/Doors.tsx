import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, asked } from "../api/client";
import { DialogForm } from "../ui/DialogForm";
import { Fault } from "../ui/Fault";
import { ChoiceField, TextField } from "../ui/TextField";
import { counted, day, moment } from "../ui/words";

const MONTH = 30 * 86_400_000;

/** Links that open a certificate to a customer who does not sign in. */
export function Doors({ record }: { record: string }) {
  const cache = useQueryClient();
  const params = { path: { record_id: record } };
  const found = useQuery({
    queryKey: ["doors", record],
    queryFn: () => asked(api.GET("/api/records/{record_id}/doors", { params })),
  });
  const [making, setMaking] = useState(false);
  const [link, setLink] = useState("");
  const [fault, setFault] = useState<unknown>(null);
  const [until, setUntil] = useState(() => new Date(Date.now() + MONTH).toISOString().slice(0, 10));
  const [which, setWhich] = useState("record");
  const asAnew = () => cache.invalidateQueries({ queryKey: ["doors", record] });
  const make = async () => {
    const body = { until, of_machine: which === "machine" };
    const made = await asked(api.POST("/api/records/{record_id}/doors", { params, body }));
    setLink(made.link ?? "");
    void asAnew();
  };
  const revoke = (id: string) =>
    void asked(api.DELETE("/api/doors/{door_id}", { params: { path: { door_id: id } } }))
      .then(asAnew)
      .catch(setFault);
  return (
    <section>
      <h2>For the customer</h2>
      <p>A link that opens the certificate without signing in, until a day; nothing else is behind it.</p>
      {link && (
        <p className="say" role="status">
          <strong>Copy it now; it is not shown again</strong>
          <code className="seal-code">{link}</code>
        </p>
      )}
      {found.data?.map((one) => (
        <div key={one.id} className={`cell-row${one.revoked_at || one.over ? " soft" : ""}`}>
          <span>
            {one.of_machine ? "All certificates of this machine" : "This certificate"}, until {day(one.until)}
            <small className="soft d-block">
              made by {one.made_by}, {moment(one.made_at)};{" "}
              {one.opened_at
                ? `opened ${counted(one.opened, "time")}, last ${moment(one.opened_at)}`
                : "not opened yet"}
            </small>
          </span>
          {one.revoked_at ? (
            <span>revoked</span>
          ) : one.over ? (
            <span>over</span>
          ) : (
            <Button variant="link" onClick={() => revoke(one.id)}>
              Revoke
            </Button>
          )}
        </div>
      ))}
      <Button variant="outline-primary" className="mt-2" onClick={() => setMaking(true)}>
        Make a link
      </Button>
      <Fault of={fault ?? found.error} />
      {making && (
        <DialogForm title="A link for the customer" keep="Make it" onKeep={make} onDone={() => setMaking(false)}>
          {(problem) => (
            <>
              <ChoiceField
                name="which"
                label="It opens"
                value={which}
                onChange={setWhich}
                options={[
                  ["record", "this certificate"],
                  ["machine", "all certificates of this machine, also those to come"],
                ]}
              />
              <TextField name="until" label="Until" type="date" value={until} onChange={setUntil} problem={problem} />
            </>
          )}
        </DialogForm>
      )}
    </section>
  );
}

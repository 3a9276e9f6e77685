import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked } from "../api/client";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { counted, moment } from "../ui/words";

/** Whether the chain of an organisation's records holds, when that was last looked at, and its seals to keep elsewhere. */
export function Chain() {
  const cache = useQueryClient();
  const found = useQuery({ queryKey: ["chain"], queryFn: () => asked(api.GET("/api/chain")) });
  const verify = useMutation({
    mutationFn: () => asked(api.POST("/api/chain/verifications")),
    onSuccess: (view) => cache.setQueryData(["chain"], view),
  });
  const chain = found.data;
  return (
    <Page title="Seals">
      <h1>Seals</h1>
      <Fault of={found.error ?? verify.error} />
      {!chain ? (
        !found.error && <Waiting />
      ) : (
        <>
          <p className="lead-text">
            {chain.organisation} has {counted(chain.records, "sealed record")}. Each holds the seal of the one before
            it, so that none can be changed, taken out or put in without it being seen.
          </p>
          {chain.verified_at ? (
            <div className={`say${chain.breaks.length ? " fault" : ""}`} role="status">
              <strong>
                {chain.breaks.length ? `${counted(chain.breaks.length, "thing")} that does not fit` : "Every link fits"}
              </strong>
              {chain.breaks.map((one) => (
                <p key={`${one.number} ${one.system} ${one.why}`} className="mb-1">
                  {one.number > 0 && <b>Record {one.number}</b>}
                  {one.system && ` ${one.system}`}
                  {(one.number > 0 || one.system) && ": "}
                  {one.why}.
                </p>
              ))}
              <p>
                {counted(chain.verified, "record")}, their entries, files and what they handed on. Verified{" "}
                {moment(chain.verified_at)}
                {chain.verified_by && ` by ${chain.verified_by}`}.
              </p>
            </div>
          ) : (
            <p>It was not verified yet.</p>
          )}
          <div className="d-flex flex-wrap gap-3 mt-3">
            <Button onClick={() => verify.mutate()} disabled={verify.isPending}>
              {verify.isPending ? "Verifying…" : "Verify it now"}
            </Button>
            <a className="btn btn-outline-primary" href="/api/chain/seals.csv">
              The seals, to keep elsewhere
            </a>
          </div>
          <p className="soft mt-3">
            A chain that was made anew or shortened still fits in itself. Keep the list of seals where nobody who can
            write here can write: <code>./run verify --against FILE</code> compares the two. So does the code on a
            certificate.
          </p>
          {chain.last_seal && (
            <>
              <h2>The latest seal</h2>
              <p>
                Record {chain.last_number}: <code className="seal-code">{chain.last_seal}</code>
              </p>
            </>
          )}
        </>
      )}
    </Page>
  );
}

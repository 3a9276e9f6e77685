import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked } from "../api/client";
import { Fault } from "../ui/Fault";
import { ago } from "../ui/words";

/** Where one is signed in; a device that is elsewhere can be signed out from here. */
export function Sessions() {
  const cache = useQueryClient();
  const found = useQuery({ queryKey: ["sessions"], queryFn: () => asked(api.GET("/api/sessions")) });
  const end = useMutation({
    mutationFn: (id: string) =>
      asked(api.DELETE("/api/sessions/{session_id}", { params: { path: { session_id: id } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sessions"] }),
  });
  return (
    <section>
      <h2>Where you are signed in</h2>
      <Fault of={found.error ?? end.error} />
      {found.data?.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            {device(one.agent)}
            {one.here && <b> · this one</b>}
            <small className="soft d-block">
              {one.address && `${one.address} · `}last seen {ago(one.seen_at)}
            </small>
          </span>
          {!one.here && (
            <Button variant="link" onClick={() => end.mutate(one.id)} aria-label={`Sign out ${device(one.agent)}`}>
              Sign out
            </Button>
          )}
        </div>
      ))}
    </section>
  );
}

const SYSTEMS = ["iPhone", "iPad", "Android", "Windows", "Macintosh", "Linux"];
const BROWSERS = ["Edg", "Firefox", "Chrome", "Safari"];

/** What a browser says of itself, in two words; what is not known is shown as it is. */
function device(agent: string): string {
  const named = (known: string[]) => known.find((one) => agent.includes(one));
  const [system, browser] = [named(SYSTEMS), named(BROWSERS)?.replace("Edg", "Edge")];
  return [system, browser].filter(Boolean).join(", ") || agent || "a device that says nothing of itself";
}

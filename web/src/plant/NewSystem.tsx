import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { useMachines, useMe } from "../api/queries";
import { DialogForm } from "../ui/DialogForm";
import { ChoiceField, TextField } from "../ui/TextField";

/** Chosen where the site is not on record yet. */
const ELSEWHERE = "elsewhere";

export function NewSystem({ sites }: { sites: Schemas["SiteView"][] }) {
  const [adding, setAdding] = useState(false);
  return (
    <>
      <Button variant="outline-primary" onClick={() => setAdding(true)}>
        Add a system
      </Button>
      {adding && <NewSystemForm sites={sites} onDone={() => setAdding(false)} />}
    </>
  );
}

function NewSystemForm({ sites, onDone }: { sites: Schemas["SiteView"][]; onDone: () => void }) {
  const navigate = useNavigate();
  const cache = useQueryClient();
  const machines = useMachines().data ?? [];
  const leads = useMe().data?.leads ?? false;
  const [given, setGiven] = useState({
    name: "",
    site: sites[0]?.id ?? (leads ? ELSEWHERE : ""),
    newSite: "",
    kind: "",
    material: "",
    channels: "",
  });
  const machine = machines.find((one) => one.key === given.kind) ?? machines[0];
  const set = (key: keyof typeof given) => (value: string) => setGiven({ ...given, [key]: value });
  const add = async () => {
    const names = given.channels.split(",").map((name) => name.trim());
    const { site, newSite, ...rest } = given;
    const at = site === ELSEWHERE ? { new_site: newSite } : { site, new_site: "" };
    const body = { ...rest, ...at, kind: machine?.key ?? "", channels: names.filter(Boolean) };
    const system = await asked(api.POST("/api/systems", { body }));
    void cache.invalidateQueries({ queryKey: ["round"] });
    navigate(`/systems/${system.id}`);
  };
  return (
    <DialogForm title="Add a system" keep="Add it" onKeep={add} onDone={onDone} ready={!!machine}>
      {(problem) => (
        <>
          <TextField
            name="name"
            label="Name, as it is called on site"
            value={given.name}
            onChange={set("name")}
            problem={problem}
          />
          <ChoiceField
            name="kind"
            label="Kind"
            value={machine?.key ?? ""}
            onChange={set("kind")}
            problem={problem}
            options={machines.map((one) => [one.key, one.title] as const)}
          />
          <ChoiceField
            name="site"
            label="Site"
            value={given.site}
            onChange={set("site")}
            problem={problem}
            options={[
              ...sites.map((site) => [site.id, site.name] as const),
              ...(leads ? [[ELSEWHERE, "a site that is not there yet"] as const] : []),
            ]}
          />
          {given.site === ELSEWHERE && (
            <TextField
              name="new_site"
              label="What the site is called"
              value={given.newSite}
              onChange={set("newSite")}
              problem={problem}
            />
          )}
          <TextField
            name="material"
            label="What it weighs"
            value={given.material}
            onChange={set("material")}
            problem={problem}
          />
          {!!machine?.channels.length && (
            <TextField
              name="channels"
              label={`Its channels, with commas between, where they are not: ${machine.channels.join(", ")}`}
              value={given.channels}
              onChange={set("channels")}
              problem={problem}
            />
          )}
        </>
      )}
    </DialogForm>
  );
}

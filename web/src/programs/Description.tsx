import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { NotYet, Page } from "../ui/Layout";

interface Schema {
  $ref?: string;
  type?: string;
  enum?: unknown[];
  anyOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: string[];
  description?: string;
  format?: string;
}
interface Operation {
  summary: string;
  description?: string;
  "x-scopes"?: string[];
  parameters?: { name: string; in: string; required?: boolean; schema: Schema }[];
  requestBody?: { content: Record<string, { schema: Schema }> };
  responses: Record<string, { content?: Record<string, { schema: Schema }> }>;
}
interface Described {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, Schema> };
}

const SCOPES: Record<string, string> = { read: "to read", enter: "to enter readings", plan: "to plan" };

/** What another program may ask by a token, out of the server's own OpenAPI document. */
export function Description() {
  const found = useQuery({
    queryKey: ["openapi"],
    queryFn: async () => (await fetch("/api/openapi.json")).json() as Promise<Described>,
    staleTime: Infinity,
  });
  const document = found.data;
  if (!document) return <NotYet error={found.error} />;
  const operations = Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.entries(methods)
      .filter(([, operation]) => operation["x-scopes"])
      .map(([method, operation]) => ({ path, method: method.toUpperCase(), operation })),
  );
  return (
    <Page title="What another program may ask">
      <h1>
        What another program may ask
        <small>with a token; all of it as OpenAPI in one file</small>
      </h1>
      <p>
        The token stands in the header <code>Authorization: Bearer …</code>, never in an address. What is sent and
        answered is JSON. <a href="/api/openapi.json">The whole document, OpenAPI 3.1</a>;{" "}
        <Link to="/programs">tokens and webhooks</Link>.
      </p>
      {Object.keys(SCOPES).map((scope) => (
        <section key={scope}>
          <h2>A token {SCOPES[scope]}</h2>
          {operations
            .filter((one) => one.operation["x-scopes"]!.includes(scope))
            .map((one) => (
              <One key={`${one.method} ${one.path}`} {...one} schemas={document.components.schemas} />
            ))}
        </section>
      ))}
    </Page>
  );
}

interface OneProps {
  path: string;
  method: string;
  operation: Operation;
  schemas: Record<string, Schema>;
}

function One({ path, method, operation, schemas }: OneProps) {
  const [first, ...more] = (operation.description ?? "").replaceAll("`", "").split("\n");
  const body = Object.values(operation.requestBody?.content ?? {})[0]?.schema;
  const done = Object.entries(operation.responses).find(([status]) => status.startsWith("2"));
  const answer = Object.values(done?.[1].content ?? {})[0]?.schema;
  return (
    <details className="described">
      <summary>
        <code>
          {method} {path}
        </code>{" "}
        {first}
      </summary>
      {more.length > 0 && <p>{more.join(" ")}</p>}
      {!!operation.parameters?.length && (
        <p>
          Named in the address:{" "}
          {operation.parameters.map((one) => `${one.name}${one.required ? "" : " (may be left out)"}`).join(", ")}.
        </p>
      )}
      {body && <Shape title="It is sent" schema={body} schemas={schemas} />}
      {answer && <Shape title={`It answers (${done![0]})`} schema={answer} schemas={schemas} />}
    </details>
  );
}

/** The words of a type: its name, a list of it, or what it may be. */
function typeOf(schema: Schema): string {
  if (schema.$ref) return schema.$ref.replace(/^.*[/]/, "");
  if (schema.anyOf)
    return schema.anyOf
      .map(typeOf)
      .map((one) => (one === "null" ? "nothing" : one))
      .join(" or ");
  if (schema.enum) return schema.enum.join(", ");
  if (schema.type === "array") return `list of ${typeOf(schema.items ?? {})}`;
  return schema.format ?? schema.type ?? "anything";
}

function Shape({ title, schema, schemas }: { title: string; schema: Schema; schemas: Record<string, Schema> }) {
  const name = typeOf(schema).replace("list of ", "");
  const fields = schemas[name]?.properties ?? schema.properties;
  return (
    <>
      <h3>
        {title}: {typeOf(schema)}
      </h3>
      {schemas[name]?.description && <p className="soft">{schemas[name].description}</p>}
      {fields && (
        <dl className="described-fields">
          {Object.entries(fields).map(([key, one]) => (
            <div key={key}>
              <dt>
                <code>{key}</code>
              </dt>
              <dd>
                {typeOf(one)}
                {one.description && `: ${one.description}`}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </>
  );
}

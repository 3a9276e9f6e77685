import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { Link, useSearchParams } from "react-router";
import { api, asked, type Schemas } from "../api/client";
import { Fault, Waiting } from "../ui/Fault";
import { Page } from "../ui/Layout";
import { day, moment } from "../ui/words";

type Item = Schemas["CalendarItem"];

const LEGEND: Record<Item["kind"], string> = {
  due: "due",
  planned: "planned",
  zero: "zero to look at",
  reference: "reference to be checked",
};
const two = (number: number) => String(number).padStart(2, "0");
const keyOf = (date: Date) => `${date.getFullYear()}-${two(date.getMonth() + 1)}`;
const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** The month: what is due, planned and to be checked, on which day. */
export function Calendar() {
  const [search, setSearch] = useSearchParams();
  const month = /^\d{4}-\d{2}$/.test(search.get("month") ?? "") ? search.get("month")! : keyOf(new Date());
  const found = useQuery({
    queryKey: ["calendar", month],
    queryFn: () => asked(api.GET("/api/calendar", { params: { query: { month_of: month } } })),
  });
  const [year = 0, number = 1] = month.split("-").map(Number);
  const go = (by: number) => setSearch({ month: keyOf(new Date(year, number - 1 + by, 1)) });
  const title = new Date(year, number - 1, 1).toLocaleDateString("en-GB", { month: "long", year: "numeric" });
  const items = new Map(found.data?.days.map((one) => [one.day, one.items]));
  return (
    <Page title={title}>
      <h1>
        {title}
        <small>
          <Button variant="link" onClick={() => go(-1)}>
            Before
          </Button>
          <Button variant="link" onClick={() => setSearch({})}>
            This month
          </Button>
          <Button variant="link" onClick={() => go(1)}>
            After
          </Button>
        </small>
      </h1>
      <Fault of={found.error} />
      {!found.data ? (
        !found.error && <Waiting />
      ) : (
        <>
          {found.data.late.length > 0 && (
            <section className="say fault">
              <strong>Overdue from before</strong>
              {found.data.late.map((item) => (
                <p key={item.kind + item.name}>
                  {item.system ? <Link to={`/systems/${item.system}`}>{item.name}</Link> : item.name}: {item.words}
                </p>
              ))}
            </section>
          )}
          <Weeks year={year} month={number} items={items} />
          <div className="month-list">
            {found.data.days.map((one) => (
              <section key={one.day}>
                <h2>{day(one.day)}</h2>
                {one.items.map((item) => (
                  <One key={item.kind + item.name} item={item} />
                ))}
              </section>
            ))}
            {!found.data.days.length && <p>Nothing in this month.</p>}
          </div>
          <div className="month-legend" aria-label="What the marks mean">
            {Object.entries(LEGEND).map(([kind, words]) => (
              <span key={kind} className={`month-item ${kind}`}>
                {words}
              </span>
            ))}
            <span className="month-item due expected">expected, by what its counter counts</span>
          </div>
          {found.data.daily > 0 && <p className="soft">{found.data.daily} zeros are looked at every day.</p>}
        </>
      )}
      <Feeds />
    </Page>
  );
}

function Weeks({ year, month, items }: { year: number; month: number; items: Map<string, Item[]> }) {
  const first = new Date(year, month - 1, 1);
  const begin = new Date(year, month - 1, 1 - ((first.getDay() + 6) % 7));
  const weeks = Math.ceil((((first.getDay() + 6) % 7) + new Date(year, month, 0).getDate()) / 7);
  const now = new Date().toLocaleDateString("sv");
  return (
    <table className="month" aria-label="The month by weeks">
      <thead>
        <tr>
          {DAYS.map((name) => (
            <th key={name} scope="col">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {Array.from({ length: weeks }, (_, week) => (
          <tr key={week}>
            {DAYS.map((name, place) => {
              const date = new Date(begin.getFullYear(), begin.getMonth(), begin.getDate() + week * 7 + place);
              const key = `${keyOf(date)}-${two(date.getDate())}`;
              const other = date.getMonth() !== month - 1;
              return (
                <td key={name} className={`${other ? "other" : ""}${key === now ? " today" : ""}`}>
                  <span className={`month-day${other ? " soft" : ""}`}>{date.getDate()}</span>
                  {items.get(key)?.map((item) => (
                    <One key={item.kind + item.name} item={item} />
                  ))}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function One({ item }: { item: Item }) {
  const late = item.urgency === "overdue" ? " overdue" : "";
  const classes = `month-item ${item.kind}${late}${item.expected ? " expected" : ""}`;
  const says = item.kind === "due" ? item.site : item.words;
  return item.system ? (
    <Link className={classes} to={`/systems/${item.system}`}>
      {item.name}
      <small>{says}</small>
    </Link>
  ) : (
    <span className={classes}>
      {item.name}
      <small>{says}</small>
    </span>
  );
}

/** The same in one's own calendar, under a secret link that can be revoked. */
function Feeds() {
  const cache = useQueryClient();
  const found = useQuery({ queryKey: ["feeds"], queryFn: () => asked(api.GET("/api/feeds")) });
  const known = () => void cache.invalidateQueries({ queryKey: ["feeds"] });
  const make = useMutation({ mutationFn: () => asked(api.POST("/api/feeds")), onSuccess: known });
  const revoke = useMutation({
    mutationFn: (id: string) => asked(api.DELETE("/api/feeds/{feed_id}", { params: { path: { feed_id: id } } })),
    onSuccess: known,
  });
  const live = found.data?.filter((one) => !one.revoked_at) ?? [];
  return (
    <section>
      <h2>In your own calendar</h2>
      <p>
        A link that your calendar program asks for by itself. Whoever has the link sees the days, so keep it to
        yourself; it can be revoked.
      </p>
      {make.data && (
        <p className="say">
          <strong>Copy it now; it is not shown again</strong>
          <code className="seal-code">{make.data.link}</code>
        </p>
      )}
      {live.map((one) => (
        <div key={one.id} className="cell-row">
          <span>
            {one.organisation}, made {moment(one.made_at)}
            <small className="soft d-block">
              {one.asked_at ? `last asked for ${moment(one.asked_at)}` : "not asked for yet"}
            </small>
          </span>
          <Button variant="link" onClick={() => revoke.mutate(one.id)}>
            Revoke
          </Button>
        </div>
      ))}
      <Button variant="outline-primary" className="mt-2" onClick={() => make.mutate()}>
        Make a link
      </Button>
      <Fault of={make.error ?? revoke.error} />
    </section>
  );
}

import { jobQuery, meQuery, queries, roundPages, systemQuery, unitsQuery } from "./api/queries";
import { pageQuery } from "./pages";

/** Asks at once for all that the page of an address needs, instead of one after the other as it is drawn. */
export function askAhead(path: string) {
  if (path === "/sign-in") return;
  const [, room = "", id = ""] = path.split("/");
  void queries.prefetchQuery(meQuery);
  if (room === "") {
    void queries.prefetchQuery(pageQuery("round"));
    void queries.prefetchInfiniteQuery(roundPages());
  } else if (room === "systems" && id) {
    void queries.prefetchQuery(pageQuery("system"));
    void queries.prefetchQuery(systemQuery(id));
  } else if (room === "jobs") {
    void queries.prefetchQuery(pageQuery("bench"));
    void queries.prefetchQuery(jobQuery(id));
    void queries.prefetchQuery(unitsQuery);
  }
}

import { useQuery } from "@tanstack/react-query";
import { api, asked } from "../api/client";
import { HowFar } from "../ui/HowFar";
import { Page } from "../ui/Layout";
import { moment } from "../ui/words";

const POLL = 1_500;

/** For somebody who is signed in and belongs to no organisation: not yet, or not any more. */
export function NoOrganisation() {
  const closed = useQuery({
    queryKey: ["closed"],
    queryFn: () => asked(api.GET("/api/closed")),
    refetchInterval: ({ state }) =>
      state.data?.some((one) => one.archive && !one.archive.finished_at && !one.archive.failed) ? POLL : false,
  });
  return (
    <Page title="No organisation">
      <h1>You belong to no organisation here</h1>
      <p>Open the link of an invitation that was mailed to you, or ask a lead for one.</p>
      {closed.data?.map(({ id, name, at, archive }) => (
        <section key={id}>
          <h2>
            {name}, closed by you on {moment(at)}
          </h2>
          {archive && <p>{words(archive)}</p>}
          {archive && !archive.finished_at && !archive.failed && archive.of > 0 && (
            <HowFar done={archive.done} of={archive.of} what="Made" />
          )}
          {archive?.finished_at && !archive.gone && (
            <a className="btn btn-primary" href={`/api/closed/${id}/file.zip`} download>
              Take its archive, ZIP
            </a>
          )}
        </section>
      ))}
    </Page>
  );
}

function words({ finished_at, failed, gone }: { finished_at: string | null; failed: string; gone: boolean }) {
  if (failed) return `Its archive could not be made: ${failed} Whoever runs this server can open it again.`;
  if (gone)
    return "Its archive is not kept any more. Whoever runs this server can open it again, and you make another.";
  if (finished_at) return "Everything of it in one file, as it was when you closed it. It is kept for a week.";
  return "Its archive is being made; you may close this page, and come back.";
}

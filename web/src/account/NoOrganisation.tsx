import { Page } from "../ui/Layout";

/** For somebody who is signed in and belongs to no organisation: not yet, or not any more. */
export function NoOrganisation() {
  return (
    <Page title="No organisation">
      <h1>You belong to no organisation here</h1>
      <p>Open the link of an invitation that was mailed to you, or ask a lead for one.</p>
    </Page>
  );
}

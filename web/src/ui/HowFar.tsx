import ProgressBar from "react-bootstrap/ProgressBar";

/** How far something is that is made in the background. */
export const HowFar = ({ done, of, what }: { done: number; of: number; what: string }) => (
  <div className="progress archive-bar">
    <ProgressBar isChild aria-label={what} now={(100 * done) / of} label={`${done} of ${of}`} />
  </div>
);

import ProgressBar from "react-bootstrap/ProgressBar";

/** How far something is that is made in the background. */
export const HowFar = ({ done, of, what }: { done: number; of: number; what: string }) => (
  <div className="how-far">
    <div className="progress">
      <ProgressBar isChild aria-label={what} now={(100 * done) / of} />
    </div>
    <small className="soft">
      {done} of {of}
    </small>
  </div>
);

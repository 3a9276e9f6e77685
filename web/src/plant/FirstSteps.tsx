import { Link } from "react-router";

/** What to do first where nothing is on record yet, in three lines. */
export function FirstSteps({ leads }: { leads: boolean }) {
  return (
    <section className="say first-steps">
      <strong>Nothing is on record yet</strong>
      <ol>
        <li>
          {leads ? (
            <>
              Name your machines: <Link to="/set-up">from a spreadsheet</Link>, or <Link to="/systems">one by one</Link>
              .
            </>
          ) : (
            "Ask a lead to put your machines on record."
          )}
        </li>
        <li>
          Name what you weigh against: <Link to="/references">scales, weights and containers</Link>.
        </li>
        <li>
          Open a machine and begin a visit; or try one first, <Link to="/practice">at a stand-in</Link>.
        </li>
      </ol>
    </section>
  );
}

import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { api, asked } from "../api/client";
import { Fault } from "../ui/Fault";
import { Page } from "../ui/Layout";

/** Would I have found the fault? */
export function Practice() {
  const navigate = useNavigate();
  const [fault, setFault] = useState<unknown>(null);
  const begin = async () => {
    try {
      const job = await asked(api.POST("/api/practice"));
      navigate(`/jobs/${job.id}`);
    } catch (problem) {
      setFault(problem);
    }
  };
  return (
    <Page title="Practice">
      <h1>Practice</h1>
      <p className="lead-text" style={{ maxWidth: 640 }}>
        A stand-in conveyor with a scale, a weighbridge and a lorry. What is true of it is drawn at random and hidden:
        it may be in order, simply out, or have a fault that no factor cures. Do a visit as you would on site; close it,
        and see what was true beside what you did.
      </p>
      <Fault of={fault} />
      <Button className="mt-2" onClick={begin}>
        Practise on a belt
      </Button>
      <h2>How it goes</h2>
      <ul>
        <li>
          Run it empty first, and take the zero. Whole revolutions are counted and the change of the total is entered by
          itself.
        </li>
        <li>
          Feed it, let ten minutes pass with “Wait 5 min”, stop the feed, and weigh the lorry. The ticket goes into the
          run in hand.
        </li>
        <li>“Capture” puts the live reading into the field in hand. It is marked as captured.</li>
        <li>
          The score is on decisions: a fault found, a machine in order left alone, no factor touched to hide a fault.
        </li>
      </ul>
      <p className="soft">A practice is never sealed as a record, and says on every page that it is one.</p>
    </Page>
  );
}

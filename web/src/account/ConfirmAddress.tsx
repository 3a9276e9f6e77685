import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useParams } from "react-router";
import { library } from "./library";
import { Ended } from "./NewPassword";
import { Outside } from "./Outside";

/** Where the link of a mail leads that asks whether an address is somebody's. A mail program that opens it changes nothing. */
export function ConfirmAddress() {
  const { secret = "" } = useParams();
  const [done, setDone] = useState(false);
  const [fault, setFault] = useState<unknown>(null);
  const confirm = () =>
    library("auth/email/verify", "POST", { key: secret })
      .then(() => setDone(true))
      .catch(setFault);
  return (
    <Outside title="Is this your address?">
      {fault != null && <Ended of={fault} />}
      {done ? (
        <p role="status">It is confirmed. From now on you sign in with it.</p>
      ) : (
        <Button className="w-100" onClick={() => void confirm()}>
          Yes, the mail came to me
        </Button>
      )}
      <p className="sign-in-ways">
        <Link to="/">To Wary Beacon</Link>
      </p>
    </Outside>
  );
}

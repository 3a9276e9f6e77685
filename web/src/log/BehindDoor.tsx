import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, asked } from "../api/client";
import { Fault, Waiting } from "../ui/Fault";
import { Mark } from "../ui/Layout";
import { day } from "../ui/words";

/** What a customer finds behind a link: certificates, and whether the seal of each fits. */
export function BehindDoor() {
  const { secret = "" } = useParams();
  const found = useQuery({
    queryKey: ["paper", secret],
    queryFn: () => asked(api.GET("/api/paper/{secret}", { params: { path: { secret } } })),
    retry: false,
  });
  return (
    <main className="behind-door">
      <title>Certificates · Wary Beacon</title>
      <div className="top-mark fs-4 mb-3">
        <Mark />
        Wary Beacon
      </div>
      <Fault of={found.error} />
      {found.isPending && <Waiting />}
      {found.data && (
        <>
          <h1>
            {found.data.records.length === 1 ? "Certificate" : "Certificates"}
            <small>
              from {found.data.organisation}, open until {day(found.data.until)}
            </small>
          </h1>
          <ul className="door-list">
            {found.data.records.map((one) => (
              <li key={one.id}>
                <h2>{one.machine}</h2>
                <p>
                  {one.site}, {day(one.day)}, certificate {one.number}: {one.outcome}
                </p>
                {one.put_right_by != null && (
                  <p className="wrong-text">It was put right by certificate {one.put_right_by}. Do not rely on it.</p>
                )}
                <p className={one.fits ? "good-text" : "wrong-text"}>
                  {one.fits
                    ? "Its seal fits: it reads as it was sealed."
                    : "Its seal does not fit: it is not what was sealed. Ask whoever gave you this link."}
                </p>
                <a className="btn btn-primary" href={`/api/paper/${secret}/${one.id}.pdf`}>
                  Open the certificate, PDF
                </a>
                <p className="seal-code soft">{one.sha256}</p>
              </li>
            ))}
          </ul>
          {found.data.records.length === 0 && <p>There is no certificate behind this link yet.</p>}
        </>
      )}
    </main>
  );
}

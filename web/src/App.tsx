import { useQuery } from "@tanstack/react-query";
import { createElement } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Problem } from "./api/client";
import { useMe } from "./api/queries";
import { type PageName, pageQuery } from "./pages";
import { SignIn } from "./people/SignIn";
import { Fault, Waiting } from "./ui/Fault";

export function App() {
  return (
    <Routes>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="/paper/:secret" element={<Page of="door" />} />
      <Route path="/mail/stop/:secret" element={<Page of="stopMail" />} />
      <Route path="/invited/:secret" element={<Page of="invited" />} />
      <Route path="/forgotten" element={<Page of="forgotten" />} />
      <Route path="/password/:secret" element={<Page of="newPassword" />} />
      <Route path="/address/:secret" element={<Page of="confirmAddress" />} />
      <Route path="/factor-lost/:secret" element={<Page of="factorLost" />} />
      <Route path="*" element={<SignedIn />} />
    </Routes>
  );
}

/** A page, as soon as its script is there. */
function Page({ of }: { of: PageName }) {
  const page = useQuery(pageQuery(of));
  if (page.data) return createElement(page.data);
  return page.error ? (
    <main className="page">
      <Fault of={page.error} />
    </main>
  ) : (
    <Waiting />
  );
}

function SignedIn() {
  const me = useMe();
  const here = useLocation();
  if (me.error instanceof Problem && me.error.status === 401)
    return <Navigate to="/sign-in" state={{ back: here.pathname + here.search + here.hash }} replace />;
  if (me.error && !me.data)
    return (
      <main className="page">
        <Fault of={me.error} />
      </main>
    );
  if (!me.data) return <Waiting />;
  if (me.data.owes_factor) return <Page of="factorFirst" />;
  if (!me.data.memberships.length) return <Page of={here.pathname === "/people" ? "people" : "nowhere"} />;
  return (
    <Routes>
      <Route path="/" element={me.data.works ? <Page of="round" /> : <Navigate to="/log" replace />} />
      <Route path="/calendar" element={<Page of="calendar" />} />
      <Route path="/due" element={<Page of="due" />} />
      <Route path="/faults" element={<Page of="faults" />} />
      <Route path="/chain" element={<Page of="chain" />} />
      <Route path="/systems" element={<Page of="systems" />} />
      <Route path="/systems/:id" element={<Page of="system" />} />
      <Route path="/systems/:id/loads" element={<Page of="loads" />} />
      <Route path="/jobs/:id" element={<Page of="bench" />} />
      <Route path="/log" element={<Page of="log" />} />
      <Route path="/records/:id" element={<Page of="record" />} />
      <Route path="/references" element={<Page of="references" />} />
      <Route path="/references/:id" element={<Page of="reference" />} />
      <Route path="/sums" element={<Page of="sums" />} />
      <Route path="/practice" element={<Page of="practice" />} />
      <Route path="/practice/progress" element={<Page of="progress" />} />
      <Route path="/practice/instructor" element={<Page of="instructor" />} />
      <Route path="/practice/:id" element={<Page of="truth" />} />
      <Route path="/instruments" element={<Page of="instruments" />} />
      <Route path="/people" element={<Page of="people" />} />
      <Route path="/write-up" element={<Page of="writeUp" />} />
      <Route path="/week" element={<Page of="week" />} />
      <Route path="/set-up" element={<Page of="setUp" />} />
      <Route path="/programs" element={<Page of="programs" />} />
      <Route path="/programs/description" element={<Page of="description" />} />
      <Route path="/mails" element={<Page of="mails" />} />
      <Route path="/about" element={<Page of="about" />} />
      <Route path="*" element={<Nowhere />} />
    </Routes>
  );
}

function Nowhere() {
  return (
    <main className="page">
      <h1>There is nothing at this address</h1>
      <p>
        <a href="/">To the round</a>
      </p>
    </main>
  );
}

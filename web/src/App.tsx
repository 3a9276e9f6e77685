import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Problem } from "./api/client";
import { useMe } from "./api/queries";
import { PAGES } from "./pages";
import { SignIn } from "./people/SignIn";
import { Fault, Waiting } from "./ui/Fault";

const Round = lazy(PAGES.round);
const Systems = lazy(PAGES.systems);
const SystemPage = lazy(PAGES.system);
const Bench = lazy(PAGES.bench);
const Log = lazy(PAGES.log);
const RecordPage = lazy(PAGES.record);
const References = lazy(PAGES.references);
const Sums = lazy(PAGES.sums);
const Practice = lazy(PAGES.practice);
const People = lazy(PAGES.people);

export function App() {
  return (
    <Suspense fallback={<Waiting />}>
      <Routes>
        <Route path="/sign-in" element={<SignIn />} />
        <Route path="*" element={<SignedIn />} />
      </Routes>
    </Suspense>
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
  return (
    <Routes>
      <Route path="/" element={me.data.works ? <Round /> : <Navigate to="/log" replace />} />
      <Route path="/systems" element={<Systems />} />
      <Route path="/systems/:id" element={<SystemPage />} />
      <Route path="/jobs/:id" element={<Bench />} />
      <Route path="/log" element={<Log />} />
      <Route path="/records/:id" element={<RecordPage />} />
      <Route path="/references" element={<References />} />
      <Route path="/sums" element={<Sums />} />
      <Route path="/practice" element={<Practice />} />
      <Route path="/people" element={<People />} />
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

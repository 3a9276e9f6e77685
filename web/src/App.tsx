import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Problem } from "./api/client";
import { useMe } from "./api/queries";
import { SignIn } from "./people/SignIn";
import { Fault, Waiting } from "./ui/Fault";

const Round = lazy(() => import("./plant/Round").then((m) => ({ default: m.Round })));
const Systems = lazy(() => import("./plant/Systems").then((m) => ({ default: m.Systems })));
const SystemPage = lazy(() => import("./plant/SystemPage").then((m) => ({ default: m.SystemPage })));
const Bench = lazy(() => import("./bench/Bench").then((m) => ({ default: m.Bench })));
const Log = lazy(() => import("./log/Log").then((m) => ({ default: m.Log })));
const RecordPage = lazy(() => import("./log/RecordPage").then((m) => ({ default: m.RecordPage })));
const References = lazy(() => import("./references/References").then((m) => ({ default: m.References })));
const Sums = lazy(() => import("./sums/Sums").then((m) => ({ default: m.Sums })));
const Practice = lazy(() => import("./practice/Practice").then((m) => ({ default: m.Practice })));
const People = lazy(() => import("./people/People").then((m) => ({ default: m.People })));

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

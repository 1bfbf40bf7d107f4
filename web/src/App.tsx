// Who is signed in decides what there is to see.
import { Navigate, Route, Routes } from "react-router";
import { useSession, useTerms } from "./api/queries";
import { Dropped } from "./pages/Dropped";
import { Message } from "./pages/Message";
import { later, Reading } from "./shell/later";
import { TermsProvider } from "./ui/terms";

const Batch = later(() => import("./pages/Batch").then((m) => m.Batch)).View;
const Begin = later(() => import("./pages/Begin").then((m) => m.Begin)).View;
const Compare = later(() => import("./pages/Compare").then((m) => m.Compare)).View;
const Gadget = later(() => import("./pages/Gadget").then((m) => m.Gadget)).View;
const Gadgets = later(() => import("./pages/Gadgets").then((m) => m.Gadgets)).View;
const How = later(() => import("./pages/How").then((m) => m.How)).View;
const Plan = later(() => import("./pages/Plan").then((m) => m.Plan)).View;
const Report = later(() => import("./pages/Report").then((m) => m.Report)).View;
const Shared = later(() => import("./pages/Shared").then((m) => m.Shared)).View;
const Words = later(() => import("./pages/Words").then((m) => m.Words)).View;
const SignIn = later(() => import("./pages/SignIn").then((m) => m.SignIn)).View;

/** What a secret link leads to is there for everybody; everything else wants an account. */
export function App() {
  return (
    <Routes>
      <Route
        path="/shared/:secret"
        element={
          <Reading meanwhile={<Message title="One moment" />}>
            <Shared />
          </Reading>
        }
      />
      <Route path="*" element={<Own />} />
    </Routes>
  );
}

function Own() {
  const session = useSession();
  if (session.isPending) return <Message title="One moment" />;
  if (session.isError)
    return (
      <Message title="The server does not answer">
        Is it running? <code>./ember start</code> starts it. Then reload this page.
      </Message>
    );
  return (
    <Reading meanwhile={<Message title="One moment" />}>
      {session.data.user ? <Pages /> : <SignIn demo={session.data.demo} />}
    </Reading>
  );
}

function Pages() {
  const terms = useTerms();
  return (
    <TermsProvider terms={terms.data ?? []}>
      <Dropped />
      <Routes>
        <Route path="/words" element={<Words />} />
        <Route path="/how" element={<How />} />
        <Route path="/gadgets" element={<Gadgets />} />
        <Route path="/gadgets/begin" element={<Begin />} />
        <Route path="/gadgets/:variantId" element={<Navigate to="draw" replace />} />
        <Route path="/gadgets/:variantId/compare" element={<Compare />} />
        <Route path="/gadgets/:variantId/report" element={<Report />} />
        <Route path="/gadgets/:variantId/bill" element={<Batch />} />
        <Route path="/gadgets/:variantId/plan" element={<Plan />} />
        <Route path="/gadgets/:variantId/:step" element={<Gadget />} />
        <Route path="*" element={<Navigate to="/gadgets" replace />} />
      </Routes>
    </TermsProvider>
  );
}

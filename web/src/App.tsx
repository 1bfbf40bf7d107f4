// Who is signed in decides what there is to see.
import { Navigate, Route, Routes } from "react-router";
import { useSession } from "./api/queries";
import { Gadget } from "./pages/Gadget";
import { Gadgets } from "./pages/Gadgets";
import { Message } from "./pages/Message";
import { SignIn } from "./pages/SignIn";

export function App() {
  const session = useSession();
  if (session.isPending) return <Message title="One moment" />;
  if (session.isError)
    return (
      <Message title="The server does not answer">
        Is it running? <code>./ember start</code> starts it. Then reload this page.
      </Message>
    );
  if (!session.data.user) return <SignIn demo={session.data.demo} />;
  return (
    <Routes>
      <Route path="/gadgets" element={<Gadgets />} />
      <Route path="/gadgets/:variantId" element={<Navigate to="draw" replace />} />
      <Route path="/gadgets/:variantId/:step" element={<Gadget />} />
      <Route path="*" element={<Navigate to="/gadgets" replace />} />
    </Routes>
  );
}

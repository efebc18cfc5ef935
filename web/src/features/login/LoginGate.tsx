/** From another machine a login stands before everything; what was typed elsewhere stays where it was typed. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Spin } from "antd";
import { useEffect, useState, type ReactNode } from "react";
import { call, client, loggedIn, LOGIN_ASKED } from "@/shared/api/client";
import "./login.css";

export function LoginGate({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const session = useQuery({ queryKey: ["session"], queryFn: () => call(client.GET("/api/session")), staleTime: Number.POSITIVE_INFINITY });
  const [ended, setEnded] = useState(false);
  useEffect(() => {
    // A login that has run out shows over the page, which stays as it is beneath.
    const ask = () => setEnded(true);
    window.addEventListener(LOGIN_ASKED, ask);
    return () => window.removeEventListener(LOGIN_ASKED, ask);
  }, []);
  if (session.isPending) return <Spin className="page-wait" description="Asking the server" />;
  const outside = session.data?.needed && session.data.name === null;
  const opened = () => {
    setEnded(false);
    void queries.invalidateQueries();
  };
  if (outside) return <LoginForm opened={opened} />;
  return (
    <>
      {ended && (
        <div className="login-over">
          <LoginForm opened={opened} />
        </div>
      )}
      {children}
    </>
  );
}

function LoginForm({ opened }: { opened: () => void }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const send = async () => {
    setBusy(true);
    try {
      await call(client.POST("/api/session", { body: { name, password } }));
      loggedIn();
      opened();
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="login">
      <h1>Yard Meter</h1>
      <p>This machine asks for a login. Its owner sets one with ./yard login NAME.</p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void send();
        }}
      >
        <label>
          Name <Input autoComplete="username" value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <label>
          Password <Input type="password" autoComplete="current-password" value={password} onChange={(event) => setPassword(event.target.value)} />
        </label>
        {problem && <Alert type="error" title={problem} />}
        <Button type="primary" htmlType="submit" loading={busy}>
          Log in
        </Button>
      </form>
    </main>
  );
}

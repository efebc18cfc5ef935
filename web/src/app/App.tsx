/** Providers and routes. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider, Spin } from "antd";
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { LoginGate } from "@/features/login";
import { RailsView } from "@/features/rails";
import { ModeContext } from "./mode";
import { PlanShell } from "./PlanShell";
import { themeFor, type Mode } from "./theme";

// Every view but the first is loaded when it is asked for.
const BuildsView = lazy(() => import("@/features/builds").then((door) => ({ default: door.BuildsView })));
const BenchView = lazy(() => import("@/features/bench").then((door) => ({ default: door.BenchView })));
const CardView = lazy(() => import("@/features/card").then((door) => ({ default: door.CardView })));
const CompareView = lazy(() => import("@/features/compare").then((door) => ({ default: door.CompareView })));
const DiagnosisView = lazy(() => import("@/features/diagnosis").then((door) => ({ default: door.DiagnosisView })));
const GroundsView = lazy(() => import("@/features/grounds").then((door) => ({ default: door.GroundsView })));
const HookupView = lazy(() => import("@/features/hookup").then((door) => ({ default: door.HookupView })));
const LayoutsView = lazy(() => import("@/features/layouts").then((door) => ({ default: door.LayoutsView })));
const LedsView = lazy(() => import("@/features/leds").then((door) => ({ default: door.LedsView })));
const LogView = lazy(() => import("@/features/log").then((door) => ({ default: door.LogView })));
const NewBuildView = lazy(() => import("@/features/newbuild").then((door) => ({ default: door.NewBuildView })));
const NoiseView = lazy(() => import("@/features/noise").then((door) => ({ default: door.NoiseView })));
const RunView = lazy(() => import("@/features/run").then((door) => ({ default: door.RunView })));
const ShelfView = lazy(() => import("@/features/shelf").then((door) => ({ default: door.ShelfView })));
const WindowsView = lazy(() => import("@/features/windows").then((door) => ({ default: door.WindowsView })));

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2000 } } });

function firstMode(): Mode {
  const stored = window.localStorage.getItem("yard-mode");
  if (stored === "light" || stored === "dark") return stored;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function App() {
  const [mode, setMode] = useState<Mode>(firstMode);
  useEffect(() => {
    document.documentElement.dataset.mode = mode;
    window.localStorage.setItem("yard-mode", mode);
  }, [mode]);
  const toggle = useCallback(() => setMode((now) => (now === "light" ? "dark" : "light")), []);
  const theme = useMemo(() => themeFor(mode), [mode]);
  return (
    <ModeContext value={{ mode, toggle }}>
      <ConfigProvider theme={theme} button={{ autoInsertSpace: false }}>
        <AntApp>
          <QueryClientProvider client={queries}>
            <LoginGate>
              <BrowserRouter>
                <Suspense fallback={<Spin className="page-wait" description="Loading" />}>
                  <Routes>
                    <Route path="/" element={<BuildsView />} />
                    <Route path="/new" element={<NewBuildView />} />
                    <Route path="/plans/:planId" element={<PlanShell />}>
                      <Route index element={<Navigate to="rails" replace />} />
                      <Route path="rails" element={<RailsView />} />
                      <Route path="compare" element={<CompareView />} />
                      <Route path="shelf" element={<ShelfView />} />
                      <Route path="card" element={<CardView />} />
                      <Route path="windows" element={<WindowsView />} />
                      <Route path="noise" element={<NoiseView />} />
                      <Route path="run" element={<RunView />} />
                      <Route path="layouts" element={<LayoutsView />} />
                      <Route path="wrong" element={<DiagnosisView />} />
                      <Route path="log" element={<LogView />} />
                      <Route path="hookup" element={<HookupView />} />
                      <Route path="bench" element={<BenchView />} />
                      <Route path="leds" element={<LedsView />} />
                      <Route path="grounds" element={<GroundsView />} />
                    </Route>
                    <Route path="*" element={<Navigate to="/" replace />} />
                  </Routes>
                </Suspense>
              </BrowserRouter>
            </LoginGate>
          </QueryClientProvider>
        </AntApp>
      </ConfigProvider>
    </ModeContext>
  );
}

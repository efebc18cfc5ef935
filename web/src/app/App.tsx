/** Providers and routes. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { useCallback, useEffect, useMemo, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { BuildsView } from "@/features/builds";
import { CardView } from "@/features/card";
import { CompareView } from "@/features/compare";
import { LoginGate } from "@/features/login";
import { GroundsView } from "@/features/grounds";
import { NewBuildView } from "@/features/newbuild";
import { NoiseView } from "@/features/noise";
import { RailsView } from "@/features/rails";
import { ShelfView } from "@/features/shelf";
import { WindowsView } from "@/features/windows";
import { ModeContext } from "./mode";
import { PlanShell } from "./PlanShell";
import { themeFor, type Mode } from "./theme";

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
                  <Route path="grounds" element={<GroundsView />} />
                </Route>
                <Route path="*" element={<Navigate to="/" replace />} />
              </Routes>
            </BrowserRouter>
            </LoginGate>
          </QueryClientProvider>
        </AntApp>
      </ConfigProvider>
    </ModeContext>
  );
}

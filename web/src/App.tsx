import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { Toaster } from "sonner";
import { Frame } from "./Frame";
import { ViewBoundary } from "./parts/Boundary";
import { BenchIndex } from "./views/bench/BenchIndex";
import { BenchPage } from "./views/bench/BenchPage";
import { BlindPage } from "./views/bench/look/BlindPage";
import { ReportPage } from "./views/bench/ReportPage";
import { CampaignPage } from "./views/campaign/CampaignPage";
import { NotHere } from "./views/NotHere";
import { NightPage } from "./views/night/NightPage";
import { ShelfPage } from "./views/shelf/ShelfPage";
import { TargetsPage } from "./views/targets/TargetsPage";

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

/** The view of an address, its faults kept within it. */
function Views() {
  const { pathname } = useLocation();
  return (
    <ViewBoundary at={pathname}>
      <Routes>
        <Route path="/" element={<Navigate to="/bench" replace />} />
        <Route path="/bench" element={<BenchIndex />} />
        <Route path="/bench/:id" element={<BenchPage />} />
        <Route path="/bench/:id/report" element={<ReportPage />} />
        <Route path="/blind/:id" element={<BlindPage />} />
        <Route path="/targets" element={<TargetsPage />} />
        <Route path="/night" element={<NightPage />} />
        <Route path="/campaign" element={<CampaignPage />} />
        <Route path="/shelf" element={<ShelfPage />} />
        <Route path="*" element={<NotHere />} />
      </Routes>
    </ViewBoundary>
  );
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={500}>
        <BrowserRouter>
          <Frame>
            <Views />
          </Frame>
        </BrowserRouter>
        <Toaster
          expand
          position="bottom-right"
          offset={{ bottom: 40 }}
          toastOptions={{
            style: { background: "var(--raised)", color: "var(--ink)", border: "1px solid var(--edge)" },
          }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  );
}

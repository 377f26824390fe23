import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { lazy, Suspense } from "react";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { Toaster } from "sonner";
import { BASE } from "./api/base";
import { ProblemError } from "./api/client";
import { Frame } from "./frame/Frame";
import { SignIn } from "./frame/SignIn";
import { ViewBoundary } from "./parts/Boundary";

// A view is fetched when it is gone to, from this program itself.
const BenchIndex = lazy(async () => ({ default: (await import("./views/bench/BenchIndex")).BenchIndex }));
const BenchPage = lazy(async () => ({ default: (await import("./views/bench/BenchPage")).BenchPage }));
const ReportPage = lazy(async () => ({ default: (await import("./views/bench/ReportPage")).ReportPage }));
const BlindPage = lazy(async () => ({ default: (await import("./views/blind/BlindPage")).BlindPage }));
const TonightPage = lazy(async () => ({ default: (await import("./views/tonight/TonightPage")).TonightPage }));
const TargetsPage = lazy(async () => ({ default: (await import("./views/targets/TargetsPage")).TargetsPage }));
const NightPage = lazy(async () => ({ default: (await import("./views/night/NightPage")).NightPage }));
const CampaignPage = lazy(async () => ({ default: (await import("./views/campaign/CampaignPage")).CampaignPage }));
const NowPage = lazy(async () => ({ default: (await import("./views/now/NowPage")).NowPage }));
const LogPage = lazy(async () => ({ default: (await import("./views/log/LogPage")).LogPage }));
const TrialsPage = lazy(async () => ({ default: (await import("./views/trials/TrialsPage")).TrialsPage }));
const KitPage = lazy(async () => ({ default: (await import("./views/kit/KitPage")).KitPage }));
const ToBuyPage = lazy(async () => ({ default: (await import("./views/kit/ToBuyPage")).ToBuyPage }));
const AboutPage = lazy(async () => ({ default: (await import("./views/about/AboutPage")).AboutPage }));
const AccessPage = lazy(async () => ({ default: (await import("./views/access/AccessPage")).AccessPage }));
const LicencesPage = lazy(async () => ({ default: (await import("./views/about/LicencesPage")).LicencesPage }));
const GuidePage = lazy(async () => ({ default: (await import("./views/about/GuidePage")).GuidePage }));
const NotHere = lazy(async () => ({ default: (await import("./views/NotHere")).NotHere }));

/** A busy server is asked again when it says so, six times; anything else once. */
const isBusy = (e: unknown) => e instanceof ProblemError && e.problem.status === 429;
const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (failed, e) => failed < (isBusy(e) ? 6 : 1),
      retryDelay: (_, e) => 1000 * ((e instanceof ProblemError && e.problem.retry_after_s) || 1),
      refetchOnWindowFocus: false,
    },
  },
});

/** The view of an address, its faults kept within it. */
function Views() {
  const { pathname } = useLocation();
  return (
    <ViewBoundary at={pathname}>
      <Suspense fallback={<p className="p-6 text-muted">Loading…</p>}>
        <Routes>
          <Route path="/" element={<Navigate to="/tonight" replace />} />
          <Route path="/bench" element={<BenchIndex />} />
          <Route path="/bench/:id" element={<BenchPage />} />
          <Route path="/bench/:id/report" element={<ReportPage />} />
          <Route path="/blind/:id" element={<BlindPage />} />
          <Route path="/tonight" element={<TonightPage />} />
          <Route path="/targets" element={<TargetsPage />} />
          <Route path="/night" element={<NightPage />} />
          <Route path="/campaign" element={<CampaignPage />} />
          <Route path="/now" element={<NowPage />} />
          <Route path="/log" element={<LogPage />} />
          <Route path="/trials" element={<TrialsPage />} />
          <Route path="/kit" element={<KitPage />} />
          <Route path="/kit/to-buy" element={<ToBuyPage />} />
          <Route path="/shelf" element={<Moved to="/kit" />} />
          <Route path="/about" element={<AboutPage />} />
          <Route path="/access" element={<AccessPage />} />
          <Route path="/licences" element={<LicencesPage />} />
          <Route path="/guide/:page?" element={<GuidePage />} />
          <Route path="*" element={<NotHere />} />
        </Routes>
      </Suspense>
    </ViewBoundary>
  );
}

/** An address of before, its question kept. */
function Moved({ to }: { to: string }) {
  const { search } = useLocation();
  return <Navigate to={{ pathname: to, search }} replace />;
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={500}>
        <BrowserRouter basename={BASE}>
          <Frame>
            <Views />
          </Frame>
          <SignIn />
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

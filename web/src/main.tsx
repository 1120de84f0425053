import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Route, Routes } from "react-router";
import { RouterProvider } from "react-router/dom";
import { Toaster } from "sonner";
import { problemOf } from "./api/client";
import { Frame } from "./parts/frame";
import { Loading } from "./parts/marks";
import { LeaveGuard } from "./saving/Strip";
import { unanswered } from "./saving/saver";
import { heard } from "./saving/unsaved";
import "./style/base.css";

/** A place that cannot be fetched while the server is away comes once it is back; what is typed elsewhere is not lost by it. */
function patiently<T>(load: () => Promise<T>): () => Promise<T> {
  return async () => {
    for (;;) {
      try {
        return await load();
      } catch {
        heard(false);
        await new Promise((go) => setTimeout(go, 2000));
      }
    }
  };
}

const Today = lazy(patiently(() => import("./places/today/Today")));
const Pantry = lazy(patiently(() => import("./places/pantry/Pantry")));
const Formulas = lazy(patiently(() => import("./places/formulas/Formulas")));
const TastingLog = lazy(patiently(() => import("./places/formulas/making/TastingLog")));
const FormulaSheet = lazy(patiently(() => import("./places/formulas/FormulaSheet")));
const Recipes = lazy(patiently(() => import("./places/reader/Recipes")));
const Reader = lazy(patiently(() => import("./places/reader/Reader")));
const Preparations = lazy(patiently(() => import("./places/preparations/Preparations")));
const Batches = lazy(patiently(() => import("./places/batches/Batches")));
const Batch = lazy(patiently(() => import("./places/batches/Batch")));
const Plan = lazy(patiently(() => import("./places/batches/plan/Plan")));
const Bench = lazy(patiently(() => import("./places/batches/bench/Bench")));
const Devices = lazy(patiently(() => import("./places/devices/Devices")));
const Rehearse = lazy(patiently(() => import("./places/batches/bench/Rehearse")));
const Jars = lazy(patiently(() => import("./places/batches/Jars")));
const Cost = lazy(patiently(() => import("./places/costs/Cost")));
const Stock = lazy(patiently(() => import("./places/lots/Stock")));
const Receive = lazy(patiently(() => import("./places/lots/Receive")));
const LotPage = lazy(patiently(() => import("./places/lots/LotPage")));
const Allergens = lazy(patiently(() => import("./places/allergens/Allergens")));
const ChangePage = lazy(patiently(() => import("./places/allergens/ChangePage")));
const Keeping = lazy(patiently(() => import("./places/keeping/Keeping")));
const Labels = lazy(patiently(() => import("./places/labels/Labels")));
const Label = lazy(patiently(() => import("./places/labels/Label")));
const Story = lazy(patiently(() => import("./places/history/Story")));
const Records = lazy(patiently(() => import("./places/history/Records")));
const Recall = lazy(patiently(() => import("./places/recalls/Recall")));
const Trace = lazy(patiently(() => import("./places/traces/Trace")));
const Shop = lazy(patiently(() => import("./places/shop/Shop")));

/** Everything that is read tells whether the server answers. */
const queryCache = new QueryCache({
  onError: (e) => heard(!unanswered(problemOf(e))),
  onSuccess: () => heard(true),
});
const client = new QueryClient({
  queryCache,
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2_000 } },
});

const root = document.getElementById("root");
if (!root) throw new Error("no root element");
/** Every place has an address; all of them stand in one frame. */
function App() {
  return (
    <>
      <Frame>
        <Suspense fallback={<Loading what="the page" />}>
          <Routes>
            <Route path="/" element={<Navigate to="/today" replace />} />
            <Route path="/today" element={<Today />} />
            <Route path="/pantry" element={<Pantry />} />
            <Route path="/pantry/:id" element={<Pantry />} />
            <Route path="/formulas" element={<Formulas />} />
            <Route path="/formulas/:id/making/:trial" element={<TastingLog />} />
            <Route path="/formulas/:id" element={<FormulaSheet />} />
            <Route path="/formulas/:id/:number" element={<FormulaSheet />} />
            <Route path="/records" element={<Records />} />
            <Route path="/recalls/:id" element={<Recall />} />
            <Route path="/trace" element={<Trace />} />
            <Route path="/trace/:of/:id" element={<Trace />} />
            <Route path="/reader" element={<Recipes />} />
            <Route path="/reader/:id" element={<Reader />} />
            <Route path="/preparations" element={<Preparations />} />
            <Route path="/preparations/:id" element={<Preparations />} />
            <Route path="/batches" element={<Batches />} />
            <Route path="/batches/:id" element={<Batch />} />
            <Route path="/batches/:id/record" element={<Story />} />
            <Route path="/batches/:id/:step" element={<Batch />} />
            <Route path="/plan/:formula/:version" element={<Plan />} />
            <Route path="/bench/:id" element={<Bench />} />
            <Route path="/devices" element={<Devices />} />
            <Route path="/rehearse/:formula/:version" element={<Rehearse />} />
            <Route path="/jars" element={<Jars />} />
            <Route path="/costs/:formula/:version" element={<Cost />} />
            <Route path="/stock" element={<Stock />} />
            <Route path="/stock/receive" element={<Receive />} />
            <Route path="/lots/:id" element={<LotPage />} />
            <Route path="/allergens" element={<Allergens />} />
            <Route path="/allergens/:id" element={<ChangePage />} />
            <Route path="/keeping" element={<Keeping />} />
            <Route path="/labels" element={<Labels />} />
            <Route path="/labels/:id" element={<Label />} />
            <Route path="/shop" element={<Shop />} />
            <Route path="*" element={<p className="p-6">Nothing is kept under this address. Begin at Today.</p>} />
          </Routes>
        </Suspense>
      </Frame>
      <LeaveGuard />
      <Toaster
        position="bottom-center"
        toastOptions={{
          style: { fontFamily: "var(--font-text)", borderRadius: 4 },
          actionButtonStyle: { background: "var(--color-cobalt)", color: "white", borderRadius: 3, height: 28, padding: "0 10px" },
        }}
      />
    </>
  );
}

const router = createBrowserRouter([{ path: "*", element: <App /> }]);

createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);

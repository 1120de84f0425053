import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Route, Routes } from "react-router";
import { RouterProvider } from "react-router/dom";
import { problemOf } from "./api/client";
import { Frame } from "./parts/frame";
import { later } from "./parts/later";
import { Loading } from "./parts/marks";
import { LeaveGuard } from "./saving/Strip";
import { unanswered } from "./saving/saver";
import { heard } from "./saving/unsaved";
import "./style/base.css";

const Today = later(() => import("./places/today/Today"));
const Pantry = later(() => import("./places/pantry/Pantry"));
const Formulas = later(() => import("./places/formulas/Formulas"));
const TastingLog = later(() => import("./places/formulas/making/TastingLog"));
const FormulaSheet = later(() => import("./places/formulas/FormulaSheet"));
const Recipes = later(() => import("./places/reader/Recipes"));
const Reader = later(() => import("./places/reader/Reader"));
const Preparations = later(() => import("./places/preparations/Preparations"));
const Batches = later(() => import("./places/batches/Batches"));
const Batch = later(() => import("./places/batches/Batch"));
const Plan = later(() => import("./places/batches/plan/Plan"));
const Bench = later(() => import("./places/batches/bench/Bench"));
const Devices = later(() => import("./places/devices/Devices"));
const Rehearse = later(() => import("./places/batches/bench/Rehearse"));
const Jars = later(() => import("./places/batches/Jars"));
const Cost = later(() => import("./places/costs/Cost"));
const Stock = later(() => import("./places/lots/Stock"));
const Receive = later(() => import("./places/lots/Receive"));
const LotPage = later(() => import("./places/lots/LotPage"));
const Allergens = later(() => import("./places/allergens/Allergens"));
const ChangePage = later(() => import("./places/allergens/ChangePage"));
const Keeping = later(() => import("./places/keeping/Keeping"));
const Labels = later(() => import("./places/labels/Labels"));
const Label = later(() => import("./places/labels/Label"));
const Story = later(() => import("./places/history/Story"));
const Records = later(() => import("./places/history/Records"));
const Recall = later(() => import("./places/recalls/Recall"));
const Trace = later(() => import("./places/traces/Trace"));
const Notes = later(() => import("./parts/notes"));
const Shop = later(() => import("./places/shop/Shop"));

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
      <Suspense>
        <Notes />
      </Suspense>
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

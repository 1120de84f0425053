import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Route, Routes } from "react-router";
import { RouterProvider } from "react-router/dom";
import { Toaster } from "sonner";
import { Frame } from "./parts/frame";
import { Loading } from "./parts/marks";
import { LeaveGuard } from "./saving/Strip";
import "./style/base.css";

const Today = lazy(() => import("./places/today/Today"));
const Pantry = lazy(() => import("./places/pantry/Pantry"));
const Formulas = lazy(() => import("./places/formulas/Formulas"));
const FormulaSheet = lazy(() => import("./places/formulas/FormulaSheet"));
const Recipes = lazy(() => import("./places/reader/Recipes"));
const Reader = lazy(() => import("./places/reader/Reader"));
const Preparations = lazy(() => import("./places/preparations/Preparations"));
const Batches = lazy(() => import("./places/batches/Batches"));
const Batch = lazy(() => import("./places/batches/Batch"));
const Jars = lazy(() => import("./places/batches/Jars"));
const Stock = lazy(() => import("./places/lots/Stock"));
const Receive = lazy(() => import("./places/lots/Receive"));
const LotPage = lazy(() => import("./places/lots/LotPage"));
const Allergens = lazy(() => import("./places/allergens/Allergens"));
const ChangePage = lazy(() => import("./places/allergens/ChangePage"));
const Keeping = lazy(() => import("./places/keeping/Keeping"));
const Labels = lazy(() => import("./places/labels/Labels"));
const Label = lazy(() => import("./places/labels/Label"));
const Shop = lazy(() => import("./places/shop/Shop"));

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2_000 } } });

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
            <Route path="/formulas/:id" element={<FormulaSheet />} />
            <Route path="/formulas/:id/:number" element={<FormulaSheet />} />
            <Route path="/reader" element={<Recipes />} />
            <Route path="/reader/:id" element={<Reader />} />
            <Route path="/preparations" element={<Preparations />} />
            <Route path="/preparations/:id" element={<Preparations />} />
            <Route path="/batches" element={<Batches />} />
            <Route path="/batches/:id" element={<Batch />} />
            <Route path="/batches/:id/:step" element={<Batch />} />
            <Route path="/jars" element={<Jars />} />
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
      <Toaster position="bottom-center" toastOptions={{ style: { fontFamily: "var(--font-text)", borderRadius: 4 } }} />
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

import { useState } from "react";
import { useSearchParams } from "react-router";
import { problemOf } from "../../api/client";
import { useLabels } from "../../api/queries/labels";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { NewLabel } from "./NewLabel";
import { Shelf } from "./Shelf";

export default function Labels() {
  const list = useLabels();
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState(params.has("make"));
  if (list.isPending) return <Loading what="the labels" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Labels" sub="drafted from the formula and the suppliers' lists">
        <button type="button" className="btn" onClick={() => setOpen(true)}>
          Make a label
        </button>
      </Head>
      {list.data.length === 0 ? (
        <div className="sheet mt-4 max-w-xl p-6">
          <p className="font-title text-title">No label yet.</p>
          <p className="mt-2 text-ink-2">
            A label belongs to a locked formula, under the law of a country, on a stock of your size. Its words follow the formula.
          </p>
        </div>
      ) : (
        <Shelf labels={list.data} />
      )}
      {open && (
        <NewLabel
          of={params.get("make") ?? ""}
          onClose={() => {
            setOpen(false);
            if (params.has("make")) setParams({}, { replace: true });
          }}
        />
      )}
    </div>
  );
}

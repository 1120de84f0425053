import { useEffect, useRef, useState } from "react";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { useShopQuery } from "../../api/queries/shop";
import { AreaField, TextField } from "../../parts/form";
import { toast } from "../../parts/toast";
import type { Settings } from "./settings";

/** What labels bear of the shop: country, addresses for other laws, tint and mark. */
export function OnLabels({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const laws = useShopQuery().data?.laws ?? [];
  const home = laws.find((l) => l.regime === s.regime);
  const e = (name: string) => fieldMessage(problem, name);
  return (
    <section className="sheet col-span-2 p-5" aria-labelledby="on-labels">
      <h2 id="on-labels" className="phase mb-3 text-lead">
        On your labels
      </h2>
      <div className="grid grid-cols-[1fr_1fr_240px] items-start gap-5 max-phone:grid-cols-1">
        <TextField
          label="Country of your address"
          value={s.country ?? ""}
          placeholder={home?.country}
          hint="it stands under the address on labels for another country"
          onChange={(x) => set({ country: x.target.value })}
          error={e("country")}
        />
        <div className="grid gap-3">
          {laws
            .filter((l) => l.regime !== s.regime)
            .map((l) => {
              const law = l.regime.toLowerCase();
              return (
                <AreaField
                  key={law}
                  label={`Address on ${l.title} labels, where it is another`}
                  rows={2}
                  value={s.label_addresses?.[law] ?? ""}
                  onChange={(x) => set({ label_addresses: { ...s.label_addresses, [law]: x.target.value } })}
                  error={e(`label_addresses.${law}`)}
                />
              );
            })}
        </div>
        <div className="grid gap-3">
          <label className="block text-note text-ink-2">
            Tint of bands
            <input
              type="color"
              className="mt-1 block h-9 w-20 cursor-pointer"
              value={s.colour || "#1f3f93"}
              onChange={(x) => set({ colour: x.target.value })}
            />
          </label>
          <MarkField />
        </div>
      </div>
    </section>
  );
}

/** The shop's mark, an SVG or PNG. It is cleaned where it is kept: nothing in it but what is drawn. */
function MarkField() {
  const [seen, setSeen] = useState(0);
  const [there, setThere] = useState(false);
  const [wrong, setWrong] = useState("");
  const file = useRef<HTMLInputElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked again when it was changed
  useEffect(() => {
    void fetch("/api/shop/mark", { method: "GET" }).then((r) => setThere(r.ok));
  }, [seen]);
  const act = async (run: () => Promise<unknown>, said: string) => {
    try {
      await run();
      setWrong("");
      setSeen((n) => n + 1);
      toast(said);
    } catch (x) {
      const p = problemOf(x);
      setWrong(fieldMessage(p, "mark") ?? p.title);
    }
  };
  const upload = async (f: File) => {
    const bytes = new Uint8Array(await f.arrayBuffer());
    let text = "";
    for (const b of bytes) text += String.fromCharCode(b);
    await act(() => take(api.PUT("/shop/mark", { body: { mark: btoa(text) } })), "The mark stands in the bands of your labels now.");
  };
  return (
    <div>
      <p className="text-note text-ink-2">Your mark, in place of the name</p>
      {there && (
        <img src={`/api/shop/mark?seen=${seen}`} alt="Your mark" className="my-1 max-h-12 max-w-full border border-rule bg-white p-1" />
      )}
      <input
        ref={file}
        type="file"
        accept=".svg,.png,image/svg+xml,image/png"
        aria-label="Mark, SVG or PNG"
        className="sr-only"
        tabIndex={-1}
        onChange={(x) => {
          const f = x.target.files?.[0];
          if (f) void upload(f);
          x.target.value = "";
        }}
      />
      <button type="button" className="btn-quiet -ml-3" onClick={() => file.current?.click()}>
        {there ? "Another picture …" : "Choose a picture …"}
      </button>
      {wrong && (
        <p role="alert" className="text-note font-semibold text-beet">
          {wrong}
        </p>
      )}
      {there && (
        <button
          type="button"
          className="btn-quiet text-beet!"
          onClick={() => void act(() => take(api.DELETE("/shop/mark")), "The mark is off your labels.")}
        >
          Take it off
        </button>
      )}
    </div>
  );
}

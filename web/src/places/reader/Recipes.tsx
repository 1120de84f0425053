import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, fieldMessage, problemOf, take } from "../../api/client";
import { refreshRecipes, useRecipes } from "../../api/queries/reader";
import { AreaField, Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { say } from "../../tongue/words";
import { Words } from "./Words";

const example = () => `Carrot and miso thing, makes about two cups

- three carrots, peeled
- 2 heaping tablespoons of white miso
- juice of half a lime, zest too
- a thumb of ginger
- ${say("example_oil")}
- salt to taste

Blend until it runs.`;

/** Recipes as they were said, and the place to paste the next. */
export default function Recipes() {
  const { num, moment } = useFormats();
  const list = useRecipes();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [words, setWords] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const [going, setGoing] = useState<{ id: number; name: string } | null>(null);
  const drop = async (why: string) => {
    await take(api.DELETE("/recipes/{id}", { params: { path: { id: going?.id ?? 0 }, query: { why } } }));
    await refreshRecipes(client);
  };
  const opened = async (r: { id: number }) => {
    await refreshRecipes(client);
    navigate(`/reader/${r.id}`);
  };
  const read = useMutation({ mutationFn: (w: string) => take(api.POST("/recipes", { body: { words: w } })), onSuccess: opened });
  const bring = useMutation({
    mutationFn: async (f: File) => {
      const body = await f.text();
      return take(api.POST("/recipe-files", { body: body as never, bodySerializer: (b) => b as never }));
    },
    onSuccess: opened,
  });
  if (list.isPending) return <Loading what="the recipes" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const rows = list.data.pages.flatMap((p) => p.recipes);
  const wrong = read.error ? problemOf(read.error) : null;
  const wrongFile = bring.error ? problemOf(bring.error) : null;
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Reader" sub="a recipe as it is spoken becomes weighed lines">
        <input
          ref={file}
          type="file"
          accept=".json,.jsonld,application/ld+json,application/json"
          className="sr-only"
          aria-label="Recipe file"
          tabIndex={-1}
          onChange={(e) => {
            const f = e.target.files?.[0];
            e.target.value = "";
            if (f) bring.mutate(f);
          }}
        />
        <button type="button" className="btn-quiet" onClick={() => file.current?.click()}>
          Open a recipe file …
        </button>
      </Head>
      {wrongFile && (
        <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-note text-beet">
          <b>The file was not read.</b> {wrongFile.fields.map((f) => f.message).join("; ") || wrongFile.title}
        </p>
      )}
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)_400px] gap-6 max-desk:grid-cols-1">
        <form
          className="sheet p-5"
          onSubmit={(e) => {
            e.preventDefault();
            read.mutate(words);
          }}
        >
          <AreaField
            label="Paste it, or write it down as you would say it"
            rows={17}
            className="[&_textarea]:font-title [&_textarea]:text-lead [&_textarea]:leading-loose"
            placeholder={example()}
            value={words}
            onChange={(e) => setWords(e.target.value)}
            error={wrong ? fieldMessage(wrong, "words", "body") || wrong.title : ""}
          />
          <div className="mt-3 flex items-center justify-between gap-3">
            <button type="button" className="btn-quiet" onClick={() => setWords(example())}>
              Try it with an example
            </button>
            <button type="submit" className="btn" disabled={!words.trim() || read.isPending}>
              Read it
            </button>
          </div>
        </form>
        <section aria-label="Recipes so far">
          <h2 className="phase mb-1 text-lead">Read so far</h2>
          {rows.length === 0 && <p className="text-body text-ink-2">None yet. Every recipe stays here word for word.</p>}
          <ul>
            {rows.map((r) => (
              <li key={r.id} className="border-b border-rule py-2.5">
                <button
                  type="button"
                  className="float-right min-h-7 px-1 text-note text-ink-3 hover:text-beet"
                  aria-label={`Throw away ${r.name}`}
                  onClick={() => setGoing(r)}
                >
                  throw away
                </button>
                <Link to={`/reader/${r.id}`} className="block truncate font-title text-lead font-semibold hover:text-cobalt">
                  {r.name}
                </Link>
                <p className="text-note text-ink-2">
                  {r.lines} lines, {num(r.total_g, 0)} g
                  {r.still_open > 0 ? <b className="text-mustard-ink">, {r.still_open} open</b> : ", all settled"}
                  {r.made && (
                    <>
                      {", became "}
                      <Link className="font-semibold text-cobalt hover:underline" to={`/formulas/${r.made.formula}/${r.made.version}`}>
                        a formula
                      </Link>
                    </>
                  )}
                  , {r.updated_by}, {moment(r.updated_at)}
                </p>
              </li>
            ))}
          </ul>
          {list.hasNextPage && (
            <button type="button" className="btn-quiet mt-3" disabled={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
              Show older recipes
            </button>
          )}
          <Words />
        </section>
      </div>
      <WhyDialog
        open={!!going}
        title={`Throw “${going?.name ?? ""}” away`}
        text="Drafts made from it keep their words."
        button="Throw it away"
        act={drop}
        onClose={() => setGoing(null)}
      />
    </div>
  );
}

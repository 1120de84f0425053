import { useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, take } from "../../api/client";
import { refreshWords } from "../../api/queries/reader";
import type { paths } from "../../api/schema";
import { ChooseIngredient } from "../../parts/choose";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { figure, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { say } from "../../tongue/words";

const MEASURES = ["spoon", "glass", "mug", "scoop", "ladle", "teacup", "eggcup"].map((m) => [m, m] as const);

const schema = z.object({
  kind: z.enum(["name", "volume", "pack"]),
  words,
  thing: z.object({ id: words, name: words }),
  unit: words,
  size: words,
  pack: words,
  amount: figure,
});

/** What is sent of a sentence: only the gaps that it has. */
function wordOf(t: z.infer<typeof schema>): paths["/words"]["post"]["requestBody"]["content"]["application/json"] {
  switch (t.kind) {
    case "name":
      return { kind: t.kind, words: t.words, ingredient: t.thing.id };
    case "volume":
      return { kind: t.kind, unit: t.unit, size: t.size, ml: t.amount ?? 0 };
    case "pack":
      return { kind: t.kind, unit: t.pack, ingredient: t.thing.id, grams: t.amount ?? 0 };
  }
}

/** Tells the reader a word, as a sentence with gaps. */
export function TellWord({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { kind: "name", words: "", thing: { id: "", name: "" }, unit: "spoon", size: "", pack: "can", amount: null },
    names: { thing: ["ingredient"], amount: ["ml", "grams"] },
    send: async (typed) => {
      await refreshWords(client, await take(api.POST("/words", { body: wordOf(typed) })));
      onClose();
    },
  });
  const { kind, thing } = entry.values;
  const choose = () => (
    <div className="pt-5.5">
      <ChooseIngredient
        label="What it is"
        className="btn-line min-w-45 justify-start"
        onChoose={(id, name) => entry.set("thing", { id, name })}
      >
        {thing.name || "choose from the pantry …"}
      </ChooseIngredient>
      {entry.error("thing") && (
        <p role="alert" className="mt-1 text-note font-semibold text-beet">
          {entry.error("thing")}
        </p>
      )}
    </div>
  );
  return (
    <Modal open onClose={onClose} title="Tell the reader a word of yours" width={560}>
      <form {...entry.form}>
        <Segmented
          label="What kind of word"
          value={kind}
          onChange={(k) => entry.set("kind", k)}
          options={[
            ["name", "a name"],
            ["volume", "a spoon or glass"],
            ["pack", `a ${say("tin")} or jar`],
          ]}
        />
        <div className="mt-4 flex flex-wrap items-start gap-3 text-lead">
          {kind === "name" && (
            <>
              <TextField label="When we say" autoFocus maxLength={80} placeholder="our green paste" {...entry.text("words")} />
              <span className="pt-7">we mean</span>
              {choose()}
            </>
          )}
          {kind === "volume" && (
            <>
              <SelectField
                label="Our"
                className="w-27.5"
                options={[
                  ["", "usual"],
                  ["small", "small"],
                  ["large", "large"],
                ]}
                {...entry.pick("size")}
              />
              <SelectField label="measure" className="w-30" options={MEASURES} {...entry.pick("unit")} />
              <span className="pt-7">holds</span>
              <NumberField label="mL" className="w-27.5" allowEmpty {...entry.pick("amount")} />
            </>
          )}
          {kind === "pack" && (
            <>
              <SelectField
                label="A"
                className="w-27.5"
                options={[
                  ["can", say("tin")],
                  ["jar", "jar"],
                  ["packet", "packet"],
                ]}
                {...entry.pick("pack")}
              />
              <span className="pt-7">of</span>
              {choose()}
              <span className="pt-7">is</span>
              <NumberField label="g" className="w-27.5" allowEmpty {...entry.pick("amount")} />
            </>
          )}
        </div>
        <Foot problem={entry.rest()} leave="Not now" onLeave={onClose} disabled={entry.busy}>
          Remember it
        </Foot>
      </form>
    </Modal>
  );
}

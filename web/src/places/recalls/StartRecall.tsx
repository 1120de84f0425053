import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshRecall } from "../../api/queries/recalls";
import { useEntry } from "../../parts/entry";
import { AreaField, Foot, Modal } from "../../parts/form";
import { words } from "../../parts/schema";
import { useMe } from "../../parts/session";

type Of = Omit<Schemas["NewRecall"], "mock" | "why">;

const schema = z.object({ real: z.boolean(), why: words });

/** Begins a drill, or a real recall, which an owner alone may: what each does stands beside it before it is chosen. */
export function StartRecall({ of, what, drillOnly = false, onClose }: { of: Of; what: string; drillOnly?: boolean; onClose: () => void }) {
  const me = useMe();
  const go = useNavigate();
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { real: false, why: "" },
    names: { why: ["why", "code", "ingredient", "allergen"] },
    send: async ({ real, why }) => {
      const v = await take(api.POST("/recalls", { body: { ...of, mock: !real, why } }));
      refreshRecall(client, v);
      go(`/recalls/${v.id}`);
    },
  });
  const { real } = entry.values;
  const ways = [
    [false, "A drill", "Nothing changes for any batch. Everything that goes out says EXERCISE. The time it takes is kept."],
    [
      true,
      "A real recall",
      me.may("owner")
        ? "Every batch of it that was released is called back at once, the lot is not used again, and none is released while it is open."
        : "Only an owner calls jars back. If you think it is needed, stop using it and ask one now.",
    ],
  ] as const;
  return (
    <Modal open onClose={onClose} title={`Look for every jar of ${what}`} width={600} calm>
      <form {...entry.form}>
        <fieldset className="grid grid-cols-2 gap-3 max-phone:grid-cols-1">
          <legend className="sr-only">Drill or real</legend>
          {ways.map(([is, title, says]) => (
            <label
              key={title}
              className={`block rounded-md border-2 px-3 py-2 has-[:focus-visible]:outline-2 has-[:focus-visible]:outline-cobalt ${real === is ? (is ? "border-beet bg-beet-tint" : "border-cobalt bg-cobalt-tint") : "border-rule-strong"} ${is && (drillOnly || !me.may("owner")) ? "opacity-70" : ""}`}
            >
              <span className="flex items-center gap-2">
                <input
                  type="radio"
                  name="kind"
                  className="size-4.25 accent-cobalt"
                  checked={real === is}
                  disabled={is && (drillOnly || !me.may("owner"))}
                  onChange={() => entry.set("real", is)}
                />
                <b className={`text-lead ${is ? "text-beet" : ""}`}>{title}</b>
              </span>
              <span className="mt-1 block text-note leading-normal text-ink-2">{says}</span>
            </label>
          ))}
        </fieldset>
        <AreaField
          className="mt-3"
          label={real ? "What is wrong with it? Customers read this." : "Why now?"}
          rows={2}
          placeholder={real ? "The supplier calls the ginger back: metal shavings" : "The yearly drill"}
          {...entry.text("why")}
        />
        {real && (
          <p className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-note">
            Somebody may be harmed while this waits. What must be told to the authority, and how soon, is set by your local rules: ask them,
            or somebody licensed, at once.
          </p>
        )}
        <Foot problem={entry.rest()} onLeave={onClose} look={real ? "btn bg-beet!" : "btn"} disabled={entry.busy}>
          {real ? "Call the jars back" : "Start the drill"}
        </Foot>
      </form>
    </Modal>
  );
}

import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import type { View } from "./parts";

const WAYS = {
  market: ["At the stall", "straight to the buyer"],
  shop: ["Through a shop", "you to the shop, the shop to the buyer"],
  distributor: ["Through a distributor", "you, the distributor, the shop"],
} as const;
const WHO: Record<string, string> = { we: "you", distributor: "the distributor", shop: "the shop" };
const TINT: Record<string, string> = { we: "#5d7cc4", distributor: "#c9b98a", shop: "#ded3b2" };

/** What to ask: three ways to the buyer, each drawn from the cost up to the price on the shelf. */
export function Ladder({ view }: { view: View }) {
  const { money, num, shop } = useFormats();
  const most = Math.max(...view.ladder.map((r) => r.point), 0.01);
  const tax = view.pricing.tax_name || "tax";
  return (
    <section aria-label="What to ask">
      <div className="flex items-baseline justify-between">
        <h2 className="phase text-lead">What to ask</h2>
        <Link to="/shop#prices" className="text-note font-semibold text-cobalt hover:underline">
          How this shop prices
        </Link>
      </div>
      {view.stack.at_least && (
        <p className="mt-1 text-note font-semibold text-mustard-ink">
          The cost is “at least”: what is left of a price is less than it says here.
        </p>
      )}
      <div className="mt-2 grid gap-4">
        {view.ladder.map((r) => {
          const [name, how] = WAYS[r.key as keyof typeof WAYS];
          return (
            <div
              key={r.key}
              className="grid grid-cols-[150px_minmax(0,1fr)_112px] items-start gap-4 max-phone:grid-cols-[minmax(0,1fr)_112px] max-phone:gap-x-3 max-phone:gap-y-1"
            >
              <div>
                <b className="block text-body">{name}</b>
                <span className="text-note text-ink-3">{how}</span>
              </div>
              <div className="min-w-0 max-phone:order-last max-phone:col-span-2">
                <Bar rung={r} most={most} />
                <p className="mt-1 text-note leading-normal text-ink-2">
                  {r.steps.map((s) => `${WHO[s.who]} ${money(s.price)} (${added(s.added, num)})`).join(", ")}
                  {r.tax > 0 && `, ${tax} ${money(r.tax)}`}
                </p>
                <p className="text-note leading-normal">
                  {r.left > 0 ? (
                    <>
                      leaves you <b>{money(r.left)}</b> a jar: a margin of {num(r.margin_percent, 1)} %, a mark-up of{" "}
                      {num(r.markup_percent, 1)} %
                    </>
                  ) : (
                    <b className="text-beet">leaves you nothing: it costs {money(view.stack.per_jar)}</b>
                  )}
                </p>
              </div>
              <p className="text-right">
                <b className="block text-title leading-none font-semibold">{money(r.point)}</b>
                <span className="text-note text-ink-3">
                  {shop.currency}
                  {r.point - r.gross >= 0.005 && `, up from ${money(r.gross)}`}
                </span>
              </p>
            </div>
          );
        })}
      </div>
      <BreakEven view={view} />
    </section>
  );
}

function added(a: Schemas["AddedShare"], num: (n: number, places?: number) => string): string {
  return `${a.way === "margin" ? "margin" : "mark-up"} ${num(a.percent, Number.isInteger(a.percent) ? 0 : 1)} %`;
}

/** The price on the shelf, from what the jar costs up through every pair of hands to the tax. */
function Bar({ rung, most }: { rung: Schemas["Rung"]; most: number }) {
  const { money } = useFormats();
  const cost = rung.ours - rung.left;
  const parts = [{ name: `cost ${money(cost)}`, from: 0, to: cost, fill: "var(--color-cobalt)" }];
  let below = cost;
  rung.steps.forEach((s, i) => {
    const last = i === rung.steps.length - 1;
    const to = last ? rung.point - rung.tax : s.price; // what the price point adds is of who sells to the buyer
    parts.push({ name: `${WHO[s.who]} ${money(to - below)}`, from: below, to, fill: TINT[s.who] });
    below = to;
  });
  parts.push({ name: `tax ${money(rung.tax)}`, from: below, to: rung.point, fill: "#e9edee" });
  return (
    <div className="flex h-5 bg-rule-soft" role="img" aria-label={parts.map((p) => p.name).join(", ")}>
      {parts.map((p) => (
        <span key={p.name} title={p.name} style={{ width: `${(100 * Math.max(0, p.to - p.from)) / most}%`, background: p.fill }} />
      ))}
    </div>
  );
}

function BreakEven({ view }: { view: View }) {
  const { num, money } = useFormats();
  const fixed = view.pricing.fixed_month;
  const made = view.made_a_month;
  return (
    <p className="mt-3 border-t border-rule-soft pt-2 text-body">
      {fixed > 0 ? (
        <>
          {money(fixed)} a month has to come in whatever is made:{" "}
          {view.ladder
            .map(
              (r) =>
                `${WAYS[r.key as keyof typeof WAYS][0].toLowerCase()} ${r.break_even == null ? "never" : say("jars", { count: r.break_even })}`,
            )
            .join(", ")}
          .{" "}
        </>
      ) : (
        <span className="text-ink-2">Say in the shop what a month costs whatever is made, and the jars that pay for it stand here. </span>
      )}
      {made != null ? (
        <b>You made {num(made, 0)} jars of it a month lately.</b>
      ) : (
        <span className="text-ink-2">No jar of it was made in the last three months.</span>
      )}
    </p>
  );
}

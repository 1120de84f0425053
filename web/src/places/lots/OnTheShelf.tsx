import { Link } from "react-router";
import { useLotsOf } from "../../api/queries/lots";
import { useFormats } from "../../parts/shop";

/** How much of an ingredient is where: its lots, what ends first first. */
export function OnTheShelf({ id }: { id: string }) {
  const { num, day } = useFormats();
  const lots = useLotsOf(id);
  if (!lots.data) return null;
  const { lots: list, today } = lots.data;
  const usable = list.filter((x) => !x.bar && !x.frozen && (!x.ends || x.ends >= today)).reduce((s, x) => s + x.on_hand_g, 0);
  const asks = list.filter((x) => x.list_differs);
  return (
    <div className="mb-1">
      {asks.map((x) => (
        <p key={x.id} className="mb-2 border-l-4 border-beet pl-2.5 text-note">
          <b className="text-beet">The packet of {x.code} is printed differently.</b> Look at the allergens again, then say so on{" "}
          <Link to={`/lots/${x.id}`} className="font-semibold text-cobalt underline">
            its page
          </Link>
          .
        </p>
      ))}
      <p className="text-body">
        {list.length === 0 ? (
          <span className="text-ink-2">No lot of it is here. </span>
        ) : (
          <>
            <b className="text-lead">{num(usable)}</b>
            <span className="unit">g may be used</span>
          </>
        )}
      </p>
      <ul className="mt-1 grid gap-x-6 text-note phone:grid-cols-2">
        {list.slice(0, 6).map((x) => (
          <li key={x.id} className="grid grid-cols-[64px_minmax(0,1fr)_70px] items-baseline gap-2 border-b border-rule-soft py-1">
            <Link to={`/lots/${x.id}`} className="font-semibold text-cobalt hover:underline">
              {x.code}
            </Link>
            <span className={`truncate ${x.bar ? "text-beet" : "text-ink-2"}`} title={x.bar}>
              {x.bar || (x.ends ? `ends ${day(x.ends)}` : "no end")}
            </span>
            <span className="text-right">
              {num(x.on_hand_g)}
              <span className="unit">g</span>
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-2 flex gap-4 text-note">
        {list.length > 0 && (
          <Link to={`/stock?of=${id}`} className="font-semibold text-cobalt hover:underline">
            {list.length > 6 ? `All ${list.length} lots` : "In the stock"}
          </Link>
        )}
        <Link to="/stock/receive" className="font-semibold text-cobalt hover:underline">
          Take a delivery in
        </Link>
      </p>
    </div>
  );
}

import { useEffect, useRef } from "react";
import { useDropWord, useWords } from "../../api/queries/reader";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { meaning } from "./words";

/** Says at once what an answer settled for good, and lets it be taken back. */
export function useRemembered() {
  const words = useWords().data;
  const { num } = useFormats();
  const drop = useDropWord();
  const known = useRef<Set<number> | null>(null);
  useEffect(() => {
    if (!words) return;
    const before = known.current;
    known.current = new Set(words.map((w) => w.id));
    if (!before) return;
    for (const w of words.filter((x) => !before.has(x.id))) {
      toast(`Remembered for the shop: ${meaning(w, num)}.`, {
        duration: 12_000,
        action: { label: "Take it back", onClick: () => void drop(w.id, "taken back at once") },
      });
    }
  }, [words, num, drop]);
}

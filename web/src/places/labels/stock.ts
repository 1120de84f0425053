/** What a new label begins with: the shop's first roll, else a size of its own in mm. */
export const USUAL_STOCK = { wide: 95, high: 65 } as const;

interface Stock {
  id: string;
  kind: string;
  width_mm: number;
  height_mm: number;
}

export function usualLabel(stocks: readonly Stock[] | undefined) {
  const roll = stocks?.find((s) => s.kind === "roll") ?? stocks?.[0];
  return {
    width_mm: roll?.width_mm ?? USUAL_STOCK.wide,
    height_mm: roll?.height_mm ?? USUAL_STOCK.high,
    design: { form: roll && roll.width_mm >= 104 ? "banded" : "plain", stock: roll?.id ?? "" },
  };
}

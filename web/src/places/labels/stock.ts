/** The label stock that a new label begins with, in mm. */
export const USUAL_STOCK = { wide: 95, high: 65 } as const;

/** The kinds of documents that a rule may ask for, with what people call them. */
export const KINDS: [string, string][] = [
  ["quality_study", "own keeping study"],
  ["product_assessment", "product assessment (US rule 3)"],
  ["listeria_study", "study with Listeria counts (GB rule 4)"],
  ["authority", "authority's document (rule 2)"],
];

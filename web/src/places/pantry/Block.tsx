import type { ReactNode } from "react";

/** One matter of an ingredient's page. */
export function Block({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="sheet mt-4 min-w-0 p-4">
      <h3 className="phase mb-2 text-lead">{title}</h3>
      {children}
    </section>
  );
}

import { Toaster } from "sonner";

/** Where the notes stand on what was done. */
export default function Notes() {
  return (
    <Toaster
      position="bottom-center"
      toastOptions={{
        style: { fontFamily: "var(--font-text)", borderRadius: 4 },
        actionButtonStyle: { background: "var(--color-cobalt)", color: "white", borderRadius: 3, height: 28, padding: "0 10px" },
      }}
    />
  );
}

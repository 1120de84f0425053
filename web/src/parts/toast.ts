import type { ExternalToast } from "sonner";

// What shows the notes is fetched after the first screen, and is there long before anybody has done something.
const shown = () => import("sonner");

/** A short note at the foot of the window on what was done, with a way to take it back where there is one. */
export const toast = Object.assign(
  (text: string, more?: Pick<ExternalToast, "action" | "description" | "duration">) => void shown().then((s) => s.toast(text, more)),
  {
    /** What went wrong, where there is no field to say it at. */
    error: (text: string) => void shown().then((s) => s.toast.error(text)),
  },
);

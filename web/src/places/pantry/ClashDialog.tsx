import type { Problem } from "../../api/client";
import { Modal } from "../../parts/form";

/** Somebody else stored it meanwhile: theirs, or one's own over it. */
export function ClashDialog({
  clash,
  onTheirs,
  onMine,
  onClose,
}: {
  clash: Problem | null;
  onTheirs: (theirs: unknown) => void;
  onMine: (theirs: unknown) => void;
  onClose: () => void;
}) {
  return (
    <Modal open={!!clash} onClose={onClose} title="Changed meanwhile">
      <p className="mb-4">{clash?.title}</p>
      <div className="flex justify-end gap-2">
        <button type="button" className="btn-line" onClick={() => onTheirs(clash?.current)}>
          Take theirs
        </button>
        <button type="button" className="btn" onClick={() => onMine(clash?.current)}>
          Keep mine
        </button>
      </div>
    </Modal>
  );
}

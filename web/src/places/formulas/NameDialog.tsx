import * as z from "zod/mini";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { said } from "../../parts/schema";

const schema = z.object({ name: said("give it a name") });

/** A formula or a variant gets its name before it is opened. start throws what the server refuses. */
export function NameDialog({
  title,
  placeholder,
  button,
  start,
  onClose,
}: {
  title: string;
  placeholder?: string;
  button: string;
  start: (name: string) => Promise<void>;
  onClose: () => void;
}) {
  const entry = useEntry({ schema, start: { name: "" }, send: ({ name }) => start(name) });
  return (
    <Modal open onClose={onClose} title={title} width={480}>
      <form {...entry.form}>
        <TextField label="What will it be called?" autoFocus maxLength={120} placeholder={placeholder} {...entry.text("name")} />
        <Foot problem={entry.rest()} leave="Not now" onLeave={onClose} disabled={entry.busy || !entry.values.name.trim()}>
          {button}
        </Foot>
      </form>
    </Modal>
  );
}

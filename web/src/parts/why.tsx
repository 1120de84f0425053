import * as z from "zod/mini";
import { useEntry } from "./entry";
import { Foot, Modal, TextField } from "./form";
import { said } from "./schema";

interface Props {
  open: boolean;
  title: string;
  text?: string;
  button: string;
  act: (why: string) => Promise<unknown>;
  onClose: () => void;
}

/** Takes something out of use, with the reason: nothing of record is deleted. act throws what the server refuses. */
export function WhyDialog({ open, ...asks }: Props) {
  return open ? <Asking {...asks} /> : null;
}

const schema = z.object({ why: said("say why") });

function Asking({ title, text, button, act, onClose }: Omit<Props, "open">) {
  const entry = useEntry({
    schema,
    start: { why: "" },
    send: async ({ why }) => {
      await act(why);
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={title} width={440}>
      <form {...entry.form}>
        {text && <p className="mb-3 text-body text-ink-2">{text}</p>}
        <TextField label="Why; it stays on record" autoFocus {...entry.text("why")} />
        <Foot problem={entry.rest()} onLeave={onClose} look="btn-beet" disabled={!entry.values.why.trim()}>
          {button}
        </Foot>
      </form>
    </Modal>
  );
}

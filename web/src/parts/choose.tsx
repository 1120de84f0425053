import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { useIngredients } from "../api/queries/pantry";
import { byNames } from "../tongue/names";

/** A button that opens the pantry to choose one ingredient of it. */
export function ChooseIngredient({
  label,
  children,
  onChoose,
  className = "btn-quiet",
  without = [],
  pack = false,
}: {
  label: string;
  children: ReactNode;
  onChoose: (id: string, name: string) => void;
  className?: string;
  without?: string[];
  /** parts of the pack are offered, and nothing that is eaten */
  pack?: boolean;
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const list = useIngredients({ enabled: open });
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger type="button" className={className}>
        <span className="sr-only">{label}: </span>
        {children}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} className="sheet z-60 w-80 p-2">
          <Command label={label} filter={byNames}>
            <Command.Input
              autoFocus
              aria-label="Name in the pantry"
              value={text}
              onValueChange={setText}
              placeholder="Name in the pantry"
              className="field"
            />
            <Command.List className="mt-2 max-h-64 overflow-auto">
              <Command.Empty className="p-2 text-note text-ink-2">
                The pantry has no “{text}”.{" "}
                <Link to="/pantry?new=1" className="font-semibold text-cobalt">
                  Add it to the pantry
                </Link>
              </Command.Empty>
              {list.data
                ?.filter((g) => !g.retired && !without.includes(g.id) && (g.role === "packaging") === pack)
                .map((g) => (
                  <Command.Item
                    key={g.id}
                    value={g.id}
                    keywords={[g.name, ...g.called]}
                    onSelect={() => {
                      setOpen(false);
                      setText("");
                      onChoose(g.id, g.name);
                    }}
                    className="flex min-h-8 items-center rounded-sm px-2 text-body data-[selected=true]:bg-cobalt-tint"
                  >
                    {g.name}
                  </Command.Item>
                ))}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

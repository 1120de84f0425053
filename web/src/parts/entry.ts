import { zodResolver } from "@hookform/resolvers/zod";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { type DefaultValues, type FieldValues, type Path, type PathValue, useForm } from "react-hook-form";
import type { z } from "zod/mini";
import { besides, fieldMessage, type Problem, problemOf } from "../api/client";
import { useAct } from "../saving/act";

type Of<In, T> = { [K in keyof In]-?: In[K] extends T ? K : never }[keyof In] & Path<In & FieldValues>;

interface Asks<In extends FieldValues, Out> {
  /** What must be there, and what is sent of it. */
  schema: z.ZodMiniType<Out, In>;
  start: In;
  /** The names under which the server refuses a field; its own where none are given. */
  names?: { [K in keyof In]?: readonly string[] };
  /** Sends what was typed; throws what the server refuses. */
  send: (typed: Out) => Promise<unknown>;
}

/**
 * What is typed into a form until it is sent. What is missing by the schema, and what the server refuses, stands beside
 * its field, and the first such field gets the focus; a second press while the first is under way does nothing.
 */
export function useEntry<In extends FieldValues, Out>({ schema, start, names, send }: Asks<In, Out>) {
  const form = useForm<In, unknown, Out>({
    resolver: zodResolver(schema),
    defaultValues: start as DefaultValues<In>,
    shouldFocusError: false,
  });
  const [problem, setProblem] = useState<Problem | null>(null);
  const element = useRef<HTMLFormElement>(null);
  const { errors, submitCount, isSubmitted } = form.formState;
  const [submit, busy] = useAct(
    form.handleSubmit(async (typed) => {
      try {
        await send(typed);
        setProblem(null);
      } catch (e) {
        setProblem(problemOf(e));
      }
    }),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each time that it was sent
  useEffect(() => {
    if (submitCount > 0) element.current?.querySelector<HTMLElement>("[aria-invalid=true]")?.focus();
  }, [submitCount, problem]);

  const asked = new Set<string>(); // the names whose refusals have a place
  const error = (f: keyof In & string): string => {
    const own = names?.[f] ?? [f];
    for (const n of own) asked.add(n);
    const missing = errors[f]?.message;
    return typeof missing === "string" && missing !== "" ? missing : fieldMessage(problem, ...own);
  };
  const values = form.watch();
  const set = <K extends Path<In>>(f: K, v: PathValue<In, K>) => form.setValue(f, v, { shouldValidate: isSubmitted });
  const change = (f: keyof In & string) => (v: unknown) => set(f as Path<In>, v as PathValue<In, Path<In>>);

  return {
    values,
    set,
    error,
    busy,
    /** Sends it, where it is no form element. */
    submit: () => void submit(),
    /** Empties the form for the next of the same. */
    reset: () => form.reset(start as DefaultValues<In>),
    /** For a form element. */
    form: {
      ref: element,
      onSubmit: (e: FormEvent<HTMLFormElement>) => {
        e.preventDefault();
        void submit(e);
      },
    },
    /** For a field of text. */
    text: (f: Of<In, string>) => ({
      value: values[f],
      onChange: (e: { target: { value: string } }) => change(f)(e.target.value),
      error: error(f),
    }),
    /** For a number, a day, a moment or a choice. */
    pick: <K extends keyof In & string>(f: K) => ({
      value: values[f],
      onValue: change(f) as (v: In[K]) => void,
      error: error(f),
    }),
    /** For a tick. */
    tick: (f: Of<In, boolean>) => ({ checked: values[f], onChange: change(f) as (v: boolean) => void }),
    /** What the server refused that has no field here. It is asked for after the fields. */
    rest: (): Problem | null => {
      if (!problem) return null;
      const placed = problem.fields.filter((x) => [...asked].some((n) => fieldMessage({ ...problem, fields: [x] }, n) !== ""));
      if (placed.length > 0 && placed.length === problem.fields.length) return null;
      const left = { ...problem, fields: problem.fields.filter((x) => !placed.includes(x)) };
      return { ...left, title: [left.title, besides(left)].filter(Boolean).join(" "), fields: [] };
    },
  };
}

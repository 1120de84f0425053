/** A field that a person asked for by a press takes the focus as it comes. */
export const takesFocus = (el: HTMLElement | null) => el?.focus();

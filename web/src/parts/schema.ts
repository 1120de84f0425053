import * as z from "zod/mini";

/** What the schemas of forms are made of. Lengths and laws are the server's; a schema says what must be there at all. */

/** Words that may be missing. */
export const words = z.string();

/** Words that must be there. */
export const said = (lack: string) => z.string().check(z.refine((s) => s.trim() !== "", lack));

/** A number that may be missing. */
export const figure = z.nullable(z.number());

/** A number that must be there. */
export const needed = (lack: string) => z.pipe(figure, z.number(lack));

/** A number that must be there where it is asked for. */
export const neededIf = (asked: boolean, lack: string) => figure.check(z.refine((n) => !asked || n !== null, lack));

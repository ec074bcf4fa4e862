import { INPUTS } from "../../lib/declared";

/** The inputs of a cost, as they are called. */
export const FIELD_WORDS: Record<string, string> = Object.assign({}, ...Object.values(INPUTS));

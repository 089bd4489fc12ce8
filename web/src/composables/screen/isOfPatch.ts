/** Whether a view, by its name, is one of the open patch. */
export const isOfPatch = (name: unknown) => name === 'build' || name === 'move' || name === 'finish'

/** An option that may be given several times. */
export const collect = (value: string, before: string[] = []): string[] => [...before, value];

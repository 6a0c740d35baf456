/** An application's name as people write it. */
export const nameOf = (app: string): string => app.charAt(0).toUpperCase() + app.slice(1);

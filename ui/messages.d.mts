export function sources(dir: string): string[];
export function messages(file: string, text?: string): { said: string[]; bare: string[] };
export const translated: RegExp;
export const root: string;

/** Severities as people read them; files and the API keep the keys. */
export const SEVERITIES = [
	['must', 'critical'],
	['should', 'warning'],
	['advise', 'suggestion']
] as const;

const WORDS = new Map<string, string>(SEVERITIES);

export const severityWords = (severity: string): string => WORDS.get(severity) ?? severity;

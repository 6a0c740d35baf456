/** What an entry of the ledger tells besides its sentence, which names the seats. */
const IN_SENTENCE = new Set(['order', 'seat', 'seats']);
const SILENT = new Set<unknown>(['', null]);

/** `title: Bring 3 settings to the standard; halt after: 2`; of what holds more, its parts in brackets. */
export function detailOf(detail: Record<string, unknown>): string {
	return pairsOf(Object.entries(detail).filter(([name]) => !IN_SENTENCE.has(name))).join('; ');
}

function pairsOf(entries: [string, unknown][]): string[] {
	return entries
		.filter(([, value]) => !SILENT.has(value))
		.map(([name, value]) => [name.replaceAll('_', ' '), wordsOf(value)] as const)
		.filter(([, words]) => words !== '')
		.map(([name, words]) => `${name}: ${words}`);
}

function wordsOf(value: unknown): string {
	if (typeof value === 'boolean') return value ? 'yes' : 'no';
	if (typeof value === 'number' && !Number.isInteger(value)) return `${Number(value.toPrecision(3))}`;
	if (Array.isArray(value)) return value.map(wordsOf).join(', ');
	if (typeof value !== 'object' || value === null) return String(value);
	const parts = pairsOf(Object.entries(value).filter(([, part]) => part !== 0)); // of terms: no such limit
	return parts.length ? `(${parts.join(', ')})` : '';
}

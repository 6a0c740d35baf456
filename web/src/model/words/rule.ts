/** A rule as its form holds it, and back to the fields of the text. What a rule means the server alone knows. */
import type { Schemas } from '../../api/client';

export const CHECKS = [
	['want', 'is'],
	['one_of', 'is one of'],
	['at_least', 'is at least'],
	['at_most', 'is at most'],
	['between', 'is between'],
	['must', 'satisfies'],
	['never', 'is never'],
	['listed', 'is a version']
] as const;
export type Check = (typeof CHECKS)[number][0];
type Fields = Schemas['RuleEditIn']['fields'];
export type Parts = {
	setting: string;
	app: string;
	check: Check;
	values: string;
	when: string;
	versions: string;
	severity: string;
	because: string;
	evidence: string;
	rests_on: string;
	fix: string;
	locked: boolean;
};

const SEVERAL: readonly Check[] = ['one_of', 'between', 'never'];
const NONE = { severity: 'should', evidence: 'untested', locked: false } as const;
const TEXTS = ['setting', 'app', 'when', 'versions', 'because', 'rests_on', 'fix'] as const;

const shown = (value: unknown): string =>
	Array.isArray(value) ? value.map(String).join(', ') : String(value ?? '');

export function partsOf(fields: Record<string, unknown>): Parts {
	const check = CHECKS.find(([name]) => fields[name] !== undefined && fields[name] !== null)?.[0] ?? 'want';
	const texts = Object.fromEntries(TEXTS.map((name) => [name, shown(fields[name])])) as Record<
		(typeof TEXTS)[number],
		string
	>;
	return {
		...texts,
		check,
		values: shown(fields[check]),
		severity: String(fields['severity'] ?? NONE.severity),
		evidence: String(fields['evidence'] ?? NONE.evidence),
		locked: fields['locked'] === true
	};
}

/** A value as TOML has it: numbers and truths are no texts. */
function valueOf(text: string): string | number | boolean {
	const word = text.trim();
	if (word === 'true' || word === 'false') return word === 'true';
	return /^-?\d+(\.\d+)?$/.test(word) ? Number(word) : word;
}

/** The fields that differ; null takes one away. What is usual is not written. */
export function given(was: Parts, now: Parts): Fields {
	const fields: Fields = {};
	if (now.check !== was.check && was.values) fields[was.check] = null;
	if (now.check !== was.check || now.values !== was.values)
		fields[now.check] = SEVERAL.includes(now.check)
			? now.values.split(',').map(valueOf)
			: valueOf(now.values);
	for (const name of TEXTS)
		if (now[name].trim() !== was[name])
			fields[name] = name === 'fix' && now.fix ? valueOf(now.fix) : now[name].trim() || null;
	for (const name of ['severity', 'evidence', 'locked'] as const)
		if (now[name] !== was[name]) fields[name] = now[name] === NONE[name] ? null : now[name];
	return fields;
}

type Word = { key: string; title: string };

/** A setting's title for the form; the key where the catalogue has no such setting. */
export const titleOfKey = (settings: readonly Word[], key: string): string =>
	settings.find((setting) => setting.key === key)?.title ?? key;

/** The key of what was typed, a title or a key in any case; undefined where no setting has it. */
export function keyOfTitle(settings: readonly Word[], typed: string): string | undefined {
	const text = typed.trim().toLowerCase();
	return settings.find(({ key, title }) => title.toLowerCase() === text || key === text)?.key;
}

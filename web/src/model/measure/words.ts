/** Words of trials: kinds as questions, jobs, figures with their unit. */
import type { Schemas } from '../../api/client';
import { storage } from '../words/sizes';

export type TrialKind = Schemas['TrialRowOut']['kind'];
export type Job = Schemas['TrialRowOut']['job'];

export const KINDS: readonly (readonly [TrialKind, string, string])[] = [
	['change', 'Does this help?', 'The current setting against one change.'],
	['choice', 'Which of these?', '3 to 8 values of one setting, each compared with the others.'],
	[
		'ladder',
		'How much is enough?',
		'The smallest value that performs as well as the largest and has no side effects.'
	],
	['screening', 'Which of these matter?', '2 to 15 changes at once; shows which of them made a difference.']
];

export const JOBS: readonly (readonly [Job, string])[] = [
	['play', 'playback'],
	['render', 'export'],
	['decode', 'decoding'],
	['disk', 'disk transfer']
];

/** A figure of a run as people read it. */
export function figureOf(job: Job, figure: number): string {
	if (job === 'render') return `${round(figure)} s`;
	if (job === 'disk') return `${storage(figure)}/s`;
	return `${round(figure)} fps`;
}

/** What the axis of figures says. */
export const AXIS: Record<Job, string> = {
	play: 'frames per second (higher is better)',
	decode: 'frames per second (higher is better)',
	render: 'seconds (lower is better)',
	disk: 'bytes per second (higher is better)'
};

/** `1.44 (1.39 to 1.49)` */
export function ratioOf(ratio: number | null, low: number | null, high: number | null): string {
	if (ratio === null) return 'unknown';
	const bounds = low === null ? '' : ` (${low.toFixed(2)} to ${high === null ? '∞' : high.toFixed(2)})`;
	return `${ratio.toFixed(2)} ×${bounds}`;
}

function round(figure: number): string {
	return figure >= 100 ? figure.toFixed(0) : figure.toFixed(1);
}

const ORDER = ['processor', 'gpu', 'clock', 'memory', 'gpu_memory', 'page_ins', 'disk_read', 'disk_write'];

/** Columns of samples in the order in which they are looked at. */
export function inOrder<T>(columns: Record<string, T>): [string, T][] {
	const placeOf = (name: string): number => {
		const place = ORDER.indexOf(name.split(':')[0] ?? '');
		return place < 0 ? ORDER.length : place;
	};
	return Object.entries(columns).sort(([a], [b]) => placeOf(a) - placeOf(b) || a.localeCompare(b));
}

/** What a column of samples is called, in which unit, and the value of a full scale where it is a share. */
export function columnOf(name: string): { title: string; share: boolean } {
	const [kind = '', of = ''] = name.split(':');
	const titles: Record<string, string> = {
		processor: 'processor',
		clock: 'clock, MHz',
		memory: 'memory',
		page_ins: 'pages read back from swap',
		gpu: of,
		gpu_memory: `${of} memory`,
		app: of,
		temperature: 'highest temperature, °C',
		disk_read: 'disk read',
		disk_write: 'disk written'
	};
	return { title: titles[kind] ?? name, share: ['processor', 'gpu', 'app'].includes(kind) };
}

/** How many rules trials speak of, behind the sentence on evidence; nothing where none does. */
export function gradesOf(evidence: readonly { grade: string }[]): string {
	const count = (wanted: string): number => evidence.filter(({ grade }) => grade === wanted).length;
	if (!evidence.length) return '';
	return ` Measured by trials: ${count('measured')}. Contradicted: ${count('contradicted')}.`;
}

/** `avc/8/420 decoded by gpu0, 240 frames per second` */
export const routeWords = ({ sentence, rate }: Schemas['RouteOut']): string =>
	`${sentence}${rate === null ? ', not measured' : `, ${rate.toFixed(0)} frames per second`}`;

import type { Schemas } from '../api/client';
import type { Job, TrialKind } from '../model/measure/words';

type Triable = Schemas['TriableOut'];
type Wanted = { key: string; value: string };
type Condition = NonNullable<Schemas['TrialIn']['conditions']>[number];

/** The word for a thing that is compared in the place of a setting: what decodes or encodes. */
export const DEVICES = 'device';
const JOBS: readonly Job[] = ['play', 'render', 'decode', 'disk'];

export const keyOf = (setting: string, app: string | null): string => `${setting} ${app ?? ''}`.trim();

type Asked = { setting: string; app: string | null; value?: string };

/** The address at which a trial of these readings, or on these seats, is begun. */
export function addressOf(seats: Iterable<string>, readings: readonly Asked[] = []): string {
	const sets = unlike(readings.map(({ setting, app, value }) => `${keyOf(setting, app)}=${value ?? ''}`));
	const query = new URLSearchParams({ kind: sets.length > 1 ? 'screening' : 'change' });
	for (const seat of unlike([...seats])) query.append('seat', seat);
	for (const set of sets) query.append('set', set);
	return `/measure/new?${query}`;
}

/** The address at which a trial is begun that asks the same once more. */
export function addressOfRepeat(trial: Schemas['TrialOut']): string {
	const query = new URLSearchParams({
		kind: trial.kind,
		job: trial.job,
		matters: `${Math.round((trial.matters - 1) * 1000) / 10}`,
		because: `repeats trial ${trial.id}`
	});
	for (const seat of trial.seats) query.append('seat', seat);
	for (const { sets, device } of trial.conditions) {
		for (const { setting, app, shown } of sets ?? [])
			query.append('set', `${keyOf(setting, app ?? null)}=${shown ?? ''}`);
		if (device) query.append('set', `${DEVICES}=${device}`);
	}
	const { what, frames, rate, app } = trial.by_hand ?? {};
	const { job, app: other } = trial.beside ?? {};
	const more = {
		clip: trial.clip_id,
		volume: trial.volume,
		what,
		frames,
		rate,
		app,
		beside: job && `${job} ${other}`.trim()
	};
	for (const [name, value] of Object.entries(more)) if (value) query.set(name, `${value}`);
	return `/measure/new?${query}`;
}

const unlike = (names: string[]): string[] => names.filter((name, place) => names.indexOf(name) === place);

const count = (number: number, noun: string): string => `${number} ${noun}${number === 1 ? '' : 's'}`;

/** A question that somebody is putting together: what is set, where, and by which job it is answered. */
export class NewTrial {
	kind = $state<TrialKind>('change');
	job = $state<Job>('play');
	seats = $state<string[]>([]);
	/** Of a change or a screening: each setting with its other value. */
	wanted = $state<Wanted[]>([]);
	/** Of a choice or a ladder: the setting, and its values in their order. */
	key = $state('');
	values = $state([{ value: '' }, { value: '' }]);
	matters = $state(3);
	clip = $state(0);
	volume = $state('');
	/** Jobs that these seats run by themselves. */
	alone = $state.raw<readonly Job[]>(JOBS);
	/** Whether somebody at the seat makes the runs, and what they do. */
	byHand = $state(false);
	hand = $state({ what: '', seconds: 30, rate: 25, app: '' });
	/** Of a ladder: the job of another application that is watched, and whose it is: `render verrano`, or `decode`. */
	beside = $state('');
	because = $state('');
	begins = $state('');

	get single(): boolean {
		return this.kind === 'choice' || this.kind === 'ladder';
	}

	/** What is still missing before the trial can be started, in the order of the form. */
	get missing(): string[] {
		const values = this.values.filter(({ value }) => value.trim()).length;
		const settings = this.wanted.filter(({ key, value }) => key && value.trim()).length;
		const least = { change: 1, screening: 2, choice: 2, ladder: 3 }[this.kind];
		const parts: [boolean, string][] = [
			[!this.seats.length, 'select a seat'],
			[this.single && !this.key, 'select a setting'],
			[this.single && values < least, `enter ${count(least - values, 'more value')}`],
			[!this.single && settings < least, `add ${count(least - settings, 'more setting')} with a value`],
			[this.decodes && !this.clip, 'select a reference clip'],
			[this.job === 'disk' && !this.volume, 'enter a volume'],
			[this.makesByHand && !this.hand.what.trim(), 'describe the material']
		];
		return parts.filter(([lacks]) => lacks).map(([, words]) => words);
	}

	/** What is asked of the server; null while something is missing. */
	get body(): Schemas['TrialIn'] | null {
		const conditions = this.#conditions();
		const lacksClip = this.decodes && !this.clip;
		if (this.makesByHand && !this.hand.what.trim()) return null;
		if (!conditions || !this.seats.length || lacksClip || (this.job === 'disk' && !this.volume)) return null;
		return {
			kind: this.kind,
			job: this.job,
			conditions,
			seats: [...this.seats],
			matters: 1 + this.matters / 100,
			clip: this.decodes ? this.clip : null,
			volume: this.job === 'disk' ? this.volume : '',
			because: this.because,
			begins: this.begins || null,
			by_hand: this.#byHand(),
			beside: this.#beside()
		};
	}

	get makesByHand(): boolean {
		return (this.byHand || this.needsHand) && (this.job === 'play' || this.job === 'render');
	}

	/** Whether these seats do not run this job by themselves. */
	get needsHand(): boolean {
		return !this.alone.includes(this.job);
	}

	/** Whether a reference clip is needed. */
	get decodes(): boolean {
		return this.job === 'decode' || this.#beside()?.job === 'decode';
	}

	#beside(): Schemas['BesideIn'] | null {
		if (this.kind !== 'ladder' || this.makesByHand || !this.beside) return null;
		const [job, app = ''] = this.beside.split(' ');
		return { job: job === 'decode' ? 'decode' : 'render', app };
	}

	#byHand(): Schemas['ByHandIn'] | null {
		if (!this.makesByHand) return null;
		const { what, seconds, rate, app } = this.hand;
		const plays = this.job === 'play';
		return {
			what,
			frames: plays ? Math.round(seconds * rate) : 0,
			rate: plays ? rate : 0,
			app: app.trim()
		};
	}

	#conditions(): Condition[] | null {
		if (this.single) {
			const values = this.values.map(({ value }) => value.trim()).filter(Boolean);
			const least = this.kind === 'ladder' ? 3 : 2;
			if (!this.key || values.length < least) return null;
			return values.map((value) => this.#conditionOf({ key: this.key, value }));
		}
		const wanted = this.wanted.filter(({ key, value }) => key && value.trim());
		if (this.kind === 'screening')
			return wanted.length < 2 ? null : wanted.map((one) => this.#conditionOf(one));
		if (!wanted.length) return null;
		return [
			{ sets: [], device: '' },
			{ sets: wanted.flatMap((one) => this.#conditionOf(one).sets ?? []), device: '' }
		];
	}

	#conditionOf({ key, value }: Wanted): Condition {
		if (key === DEVICES) return { sets: [], device: value };
		const [setting = '', app = ''] = key.split(' ');
		return { sets: [{ setting, app: app || null, value: value.trim() }], device: '' };
	}

	/** What the address names: seats, and settings with their values. */
	read(query: URLSearchParams): void {
		this.seats = query.getAll('seat');
		this.wanted = query.getAll('set').map((text) => {
			const [key = '', value = ''] = text.split('=');
			return { key, value };
		});
		const kind = query.get('kind');
		if (kind === 'choice' || kind === 'ladder' || kind === 'screening') this.kind = kind;
		this.because = query.get('because') ?? '';
		if (!this.wanted.length) this.wanted = [{ key: '', value: '' }];
		this.#readJob(query);
		this.#readHand(query);
		this.key = this.wanted[0]?.key ?? '';
		const values = this.wanted.filter(({ value }) => value).map(({ value }) => ({ value }));
		if (this.single && values.length > 1) this.values = values;
	}

	/** By which job, with what it needs, and from which effect on it matters. */
	#readJob(query: URLSearchParams): void {
		this.job = JOBS.find((job) => job === query.get('job')) ?? this.job;
		this.matters = Number(query.get('matters')) || this.matters;
		this.clip = Number(query.get('clip')) || 0;
		this.volume = query.get('volume') ?? '';
		this.beside = query.get('beside') ?? '';
	}

	#readHand(query: URLSearchParams): void {
		const what = query.get('what');
		if (what === null) return;
		this.byHand = true;
		this.job = query.get('job') === 'render' ? 'render' : 'play';
		const rate = Number(query.get('rate')) || 25;
		const frames = Number(query.get('frames')) || 30 * rate;
		this.hand = { what, seconds: frames / rate, rate, app: query.get('app') ?? '' };
	}

	/** Where the address names no value, what the standard wants is tried. */
	fill(triable: readonly Triable[]): void {
		this.alone = triable[0]?.jobs ?? JOBS;
		for (const wanted of this.wanted)
			wanted.value ||= triable.find((row) => keyOf(row.setting, row.app) === wanted.key)?.wanted ?? '';
	}

	/** Take every setting that is off norm on these seats: which of them matter? */
	screen(triable: readonly Triable[]): void {
		this.wanted = triable
			.filter((row) => row.wanted)
			.slice(0, 15)
			.map((row) => ({ key: keyOf(row.setting, row.app), value: row.wanted }));
	}
}

import { api, data, done, type Schemas } from '../../api/client';

const AGAIN_MS = 500;
const PATIENCE = 60; // times

type Files = Record<string, string>;
type Snapshot = 'before' | 'after' | 'idle';
type Toggled = Schemas['ToggledOut'];
export type Told = { native: string; told: string };

/** Bytes as base64, which JSON can carry. */
export async function packed(file: File): Promise<string> {
	const bytes = new Uint8Array(await file.arrayBuffer());
	let text = '';
	for (let at = 0; at < bytes.length; at += 0x8000) {
		text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
	}
	return btoa(text);
}

/** The files of a folder by their path under it. */
async function read(list: FileList): Promise<Files> {
	const found: Files = {};
	for (const file of list) {
		const path = file.webkitRelativePath.split('/').slice(1).join('/') || file.name;
		found[path] = await packed(file);
	}
	return found;
}

/** One lesson: folders before and after something was toggled, and what is learnt from them. */
export class Lesson {
	#folders = $state<Partial<Record<Snapshot, Files>>>({});
	#found = $state<Schemas['LessonOut']>();
	#chosen = $state<Toggled>();
	#learnt = $state<Schemas['LearntOut']>();
	#refused = $state('');
	#asking = $state<Snapshot | ''>('');
	samples = $state<Told[]>([]);
	setting = $state('');

	get found(): Schemas['LessonOut'] | undefined {
		return this.#found;
	}
	get chosen(): Toggled | undefined {
		return this.#chosen;
	}
	get learnt(): Schemas['LearntOut'] | undefined {
		return this.#learnt;
	}
	/** The snapshot that a seat is asked for at this moment. */
	get asking(): Snapshot | '' {
		return this.#asking;
	}
	get refused(): string {
		return this.#refused;
	}

	/** How many files a snapshot holds, once it was taken. */
	count(snapshot: Snapshot): number {
		return Object.keys(this.#folders[snapshot] ?? {}).length;
	}

	async take(snapshot: Snapshot, list: FileList | null): Promise<void> {
		if (list?.length) await this.#hold(snapshot, await read(list));
	}

	/** The same from a seat, as its files are now. */
	async watch(snapshot: Snapshot, app: string, seat: string): Promise<void> {
		this.#asking = snapshot;
		await this.#try(async () => {
			const params = { path: { app } };
			const { order } = await done(api.POST('/api/v1/dialects/{app}/watch', { params, body: { seat } }));
			await this.#hold(snapshot, await this.#sent(order));
		});
		this.#asking = '';
	}

	async #sent(order: string): Promise<Files> {
		for (let tries = 0; tries < PATIENCE; tries++) {
			const told = await data(api.GET('/api/v1/dialects/watched/{order}', { params: { path: { order } } }));
			if (told.here) return told.files;
			await new Promise((done) => setTimeout(done, AGAIN_MS));
		}
		throw new Error('The seat did not answer within 30 seconds. Check that it is online, then try again.');
	}

	async #hold(snapshot: Snapshot, files: Files): Promise<void> {
		this.#folders = { ...this.#folders, [snapshot]: files };
		const { before, after, idle } = this.#folders;
		if (before && after) {
			const body = { before, after, idle: idle ? [idle] : [] };
			await this.#try(async () => {
				this.#found = await data(api.POST('/api/v1/dialects/teach', { body }));
				this.choose(this.#found.changed[0]);
			});
		}
	}

	choose(toggled: Toggled | undefined): void {
		this.#chosen = toggled;
		this.#learnt = undefined;
		this.setting = toggled?.candidates[0]?.setting ?? '';
		this.samples = [
			{ native: toggled?.before ?? '', told: '' },
			{ native: toggled?.after ?? '', told: '' }
		];
	}

	more(): void {
		this.samples = [...this.samples, { native: '', told: '' }];
	}

	async learn(app: string, text: string): Promise<void> {
		const place = this.#chosen;
		if (!place) return;
		const samples = this.samples
			.filter((sample) => sample.told.trim())
			.map((sample, index) => ({ ...sample, native: this.#absent(index) ? null : sample.native }));
		const { file, at, format } = place;
		const body = { app, setting: this.setting, file, at, format, samples, text };
		await this.#try(async () => {
			this.#learnt = await data(api.POST('/api/v1/dialects/learn', { body }));
		});
	}

	/** Whether the key was not in the file before, or is not in it after. */
	#absent(index: number): boolean {
		return (index === 0 ? this.#chosen?.before : index === 1 ? this.#chosen?.after : '') === null;
	}

	async #try(act: () => Promise<void>): Promise<void> {
		try {
			await act();
			this.#refused = '';
		} catch (error) {
			this.#learnt = undefined;
			this.#refused = (error as Error).message;
		}
	}
}

/** What a file held, as it is shown. */
export const quoted = (value: string | null): string => (value === null ? 'missing' : `"${value}"`);

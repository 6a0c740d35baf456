import { api, data, Problem, type Fault, type Schemas } from '../api/client';

const PAUSE_MS = 60; // after the last key, before the server is asked

/** A draft that the server keeps, and the digest of what was read of it. */
export type Seen = { id: number; seen: string };

/** A text of the standard that is being written, and what the server says of it. */
export class Draft {
	#text = $state('');
	#first: string;
	#told = $state<Schemas['TryOut']>();
	#faults = $state<Fault[]>([]);
	#refused = $state('');
	#asking = $state(false);
	#replaced = $state(0);
	#number = 0;
	#timer: ReturnType<typeof setTimeout> | undefined;

	constructor(text: string) {
		this.#first = text;
		this.#text = text;
	}

	get text(): string {
		return this.#text;
	}
	get faults(): Fault[] {
		return this.#faults;
	}
	get told(): Schemas['TryOut'] | undefined {
		return this.#told;
	}
	get refused(): string {
		return this.#refused;
	}
	get asking(): boolean {
		return this.#asking;
	}
	/** How often the text was replaced as a whole: an editor begins anew with each. */
	get replaced(): number {
		return this.#replaced;
	}
	get changed(): boolean {
		return this.#text !== this.#first;
	}
	get sound(): boolean {
		return this.changed && !this.#asking && this.#told !== undefined;
	}

	write(text: string): void {
		this.#text = text;
		this.#asking = true;
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.#ask(), PAUSE_MS);
	}

	/** Another text, not from the keys: an older edition, a draft, a rule that was edited as a sentence. */
	replace(text: string): void {
		this.#replaced++;
		this.write(text);
	}

	/** A late answer to an older text is dropped by its number. */
	async #ask(): Promise<void> {
		const number = ++this.#number;
		try {
			const told = await data(api.POST('/api/v1/standard/try', { body: { text: this.#text } }));
			if (number === this.#number) this.#keep(told, [], '');
		} catch (error) {
			const faults = error instanceof Problem ? error.faults : [];
			if (number === this.#number) this.#keep(undefined, faults, (error as Error).message);
		}
	}

	#keep(told: Schemas['TryOut'] | undefined, faults: Fault[], refused: string): void {
		this.#told = told;
		this.#faults = faults;
		this.#refused = refused;
		this.#asking = false;
	}
}

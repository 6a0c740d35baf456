import { write } from '../api/actions';
import type { Schemas } from '../api/client';
import { read } from '../api/queries';
import { Acts } from './acts.svelte';
import { Draft, type Seen } from './draft.svelte';

/** A rule, or a sentence of care, of a layer as it is to be; `rule` is its place, null for another one. */
export type PartEdited = {
	part?: 'rule' | 'care';
	layer: number;
	rule: number | null;
	fields: Schemas['RuleEditIn']['fields'];
	remove?: boolean;
};

/** The draft that somebody has open: its text, the edition it began from, and which kept draft was read for it. */
export class OpenDraft {
	#draft = $state.raw<Draft>();
	#base = $state(0);
	#kept = $state.raw<Seen | null>(null);
	readonly acts = new Acts();

	get draft(): Draft | undefined {
		return this.#draft;
	}
	get base(): number {
		return this.#base;
	}
	/** The kept draft that is open, as it was read. */
	get kept(): Seen | null {
		return this.#kept;
	}

	/** A draft of an edition, which nobody has changed yet. */
	begin(text: string, from: number): void {
		[this.#draft, this.#base, this.#kept] = [new Draft(text), from, null];
	}

	/** A text of it is an edition now: it begins anew from that, unless other words stand there by now. */
	published(text: string, number: number): void {
		if (this.#draft?.text === text) this.begin(text, number);
		else [this.#base, this.#kept] = [number, null];
	}

	keep(kept: Seen): void {
		this.#kept = kept;
	}

	/** The starter as a first draft, of a house that has no edition. */
	async starter(): Promise<void> {
		const first = new Draft('');
		first.replace((await read.starter()).text);
		[this.#draft, this.#base, this.#kept] = [first, 0, null];
	}

	/** The text of an older edition, to be published anew. */
	async goBackTo(number: number): Promise<void> {
		const { text } = await read.edition(number);
		this.#draft?.replace(text); // the one that is open by now
	}

	/** A draft that was kept. */
	async open(number: number): Promise<void> {
		const { text, base, id, seen } = await read.draft(number);
		this.#draft?.replace(text);
		[this.#base, this.#kept] = [base, { id, seen }];
	}

	/** Change a part of the text. The form that asked shows why it was refused, so that nothing typed in it is lost. */
	async edit(part: PartEdited): Promise<void> {
		const draft = this.#draft;
		if (!draft) return;
		draft.replace((await write.editRule({ part: 'rule', remove: false, ...part, text: draft.text })).text);
	}

	addReleases(table: File): Promise<boolean> {
		return this.#write((text) => write.addReleases(text, table));
	}

	#write(change: (text: string) => Promise<{ text: string }>): Promise<boolean> {
		return this.acts.do(async () => {
			const draft = this.#draft;
			draft?.replace((await change(draft.text)).text);
		});
	}
}

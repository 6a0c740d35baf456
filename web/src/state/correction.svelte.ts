import type { Schemas } from '../api/client';

type Terms = Schemas['TermsIn'];
/** A plan that was kept, which another one may be kept in place of. */
export type Kept = { id: number; name: string; seen: string };

/** The findings that a plan is being looked at for, on which terms; the plan's dialog is open while there are some. */
class Correction {
	#findings = $state<number[]>([]);
	#terms = $state.raw<Partial<Terms>>({});
	#kept = $state.raw<Kept | undefined>();
	#title = $state('');

	get findings(): number[] {
		return this.#findings;
	}

	get terms(): Partial<Terms> {
		return this.#terms;
	}

	get kept(): Kept | undefined {
		return this.#kept;
	}

	get title(): string {
		return this.#title;
	}

	plan(findings: number[], terms: Partial<Terms> = {}, from: { kept?: Kept; title?: string } = {}): void {
		if (!findings.length) return;
		this.#findings = [...findings].sort((a, b) => a - b);
		this.#terms = terms;
		this.#kept = from.kept;
		this.#title = from.kept?.name ?? from.title ?? '';
	}

	/** It was kept, as this. */
	keep(kept: Kept): void {
		this.#kept = kept;
	}

	/** The same plan without some of its findings; without any there is none. */
	leaveOut(findings: readonly number[]): void {
		this.#findings = this.#findings.filter((finding) => !findings.includes(finding));
	}

	close(): void {
		this.#findings = [];
	}
}

export const correction = new Correction();

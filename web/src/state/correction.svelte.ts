/** The findings that a plan is being looked at for; the plan's dialog is open while there are some. */
class Correction {
	#findings = $state<number[]>([]);

	get findings(): number[] {
		return this.#findings;
	}

	plan(findings: number[]): void {
		if (findings.length) this.#findings = [...findings].sort((a, b) => a - b);
	}

	close(): void {
		this.#findings = [];
	}
}

export const correction = new Correction();

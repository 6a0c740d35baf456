import { readAnew } from '../api/anew';
import { Problem } from '../api/client';

/** Acts of one view, one at a time: whether one goes on, and what the last one was refused for. */
export class Acts {
	#problem = $state.raw<Error>();
	#busy = $state(false);
	readonly #topic: string[];

	/** What is read anew after each: the beginning of the keys of queries; none named, nothing. */
	constructor(...topic: string[]) {
		this.#topic = topic;
	}

	/** Why the last one was refused; empty where it was not. */
	get refused(): string {
		return this.#problem?.message ?? '';
	}

	/** The same as the server's document tells it, where it does. */
	get problem(): Problem | undefined {
		return this.#problem instanceof Problem ? this.#problem : undefined;
	}

	get busy(): boolean {
		return this.#busy;
	}

	/** Whether it was done. */
	async do(work: () => Promise<unknown>): Promise<boolean> {
		[this.#busy, this.#problem] = [true, undefined];
		try {
			await work();
			return true;
		} catch (error) {
			this.#problem = error as Error;
			return false;
		} finally {
			this.#busy = false;
			if (this.#topic.length) await readAnew(this.#topic);
		}
	}
}

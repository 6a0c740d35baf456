import { queryClient } from '../api/queries';

/** Acts of one view, one at a time: whether one goes on, and what the last one was refused for. */
export class Acts {
	#refused = $state('');
	#busy = $state(false);

	/** `topic` is what is read anew after each. */
	constructor(private readonly topic: string) {}

	get refused(): string {
		return this.#refused;
	}

	get busy(): boolean {
		return this.#busy;
	}

	/** Whether it was done. */
	protected async do(work: () => Promise<void>): Promise<boolean> {
		[this.#busy, this.#refused] = [true, ''];
		try {
			await work();
			return true;
		} catch (error) {
			this.#refused = (error as Error).message;
			return false;
		} finally {
			this.#busy = false;
			await queryClient.invalidateQueries({ queryKey: [this.topic] });
		}
	}
}

import type { Schemas } from '../api/client';

/** What somebody asks of a machine's memory; what is undefined is as the seat has it. */
export class MemoryPlan {
	app = $state('');
	frame = $state('3840x2160');
	bits = $state(16);
	rate = $state('25');
	heldBack = $state<number>();
	foreground = $state<number>();
	workers = $state<number>();

	/** As the server is asked; what was not said is left out. */
	get query(): Record<string, string | number> {
		const asked = {
			app: this.app,
			frame: this.frame,
			bits: this.bits,
			rate: this.rate,
			held_back: this.heldBack,
			foreground: this.foreground,
			workers: this.workers
		};
		return Object.fromEntries(
			Object.entries(asked).filter(
				(pair): pair is [string, string | number] => pair[1] !== undefined && pair[1] !== ''
			)
		);
	}

	/** The same as a body. */
	get body(): Schemas['CutIn'] {
		return {
			app: this.app,
			frame: this.frame,
			bits: this.bits,
			rate: this.rate,
			held_back: this.heldBack ?? null,
			foreground: this.foreground ?? null,
			workers: this.workers ?? null
		};
	}

	/** Nothing but what was chosen of the frames: the next seat is another machine. */
	reset(): void {
		this.app = '';
		this.heldBack = this.foreground = this.workers = undefined;
	}
}

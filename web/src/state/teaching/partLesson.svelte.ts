import { api, data, type Schemas } from '../../api/client';
import { packed } from './lesson.svelte';
import { Acts } from '../acts.svelte';

export type StoreKind = Schemas['LearnStoreIn']['kind'];
type Sample = { path: string; production: string; project: string };

/** What a dialect is taught of stores and projects: by paths of files, or by a project's file. */
export class PartLesson {
	readonly acts = new Acts();
	#learnt = $state.raw<Schemas['LearntPartOut']>();
	kind = $state<StoreKind>('renders');
	samples = $state<Sample[]>([{ path: '', production: '', project: '' }]);

	get learnt(): Schemas['LearntPartOut'] | undefined {
		return this.#learnt;
	}

	more(): void {
		this.samples = [...this.samples, { path: '', production: '', project: '' }];
	}

	/** Where files of a kind of store belong, by the paths that were given. */
	learnStore(app: string, text: string): Promise<boolean> {
		const samples = this.samples.filter((sample) => sample.path.trim());
		return this.#learn(() =>
			data(api.POST('/api/v1/dialects/learn-store', { body: { app, kind: this.kind, samples, text } }))
		);
	}

	/** Where projects like this one list their media. */
	learnProject(app: string, text: string, project: File): Promise<boolean> {
		return this.#learn(async () => {
			const body = { app, name: project.name, file: await packed(project), text };
			return data(api.POST('/api/v1/dialects/learn-project', { body }));
		});
	}

	#learn(ask: () => Promise<Schemas['LearntPartOut']>): Promise<boolean> {
		this.#learnt = undefined;
		return this.acts.do(async () => {
			this.#learnt = await ask();
		});
	}
}

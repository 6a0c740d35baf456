/** What *Find* searches besides seats and views. Each list is read once, when the sheet opens, and only for people
 * who may see it. */
import { createQuery } from '@tanstack/svelte-query';
import { ask } from '../../api/queries';
import { nameOf } from '../../model/words/names';
import { session } from '../../state/shell/session.svelte';

export type Place = { name: string; about: string; address: string };

/** Applications, settings, rules, rollouts, trials, timelines, projects, errands and people. */
export class Findable {
	readonly #house = session.may('see the house');
	readonly #dialects = createQuery(() => ({ ...ask.dialects(), enabled: this.#house }));
	readonly #standard = createQuery(() => ({ ...ask.standard(), enabled: this.#house, retry: false }));
	readonly #rollouts = createQuery(() => ({ ...ask.rollouts(), enabled: this.#house }));
	readonly #trials = createQuery(() => ({ ...ask.trials(), enabled: this.#house }));
	readonly #timelines = createQuery(() => ({ ...ask.timelines(), enabled: this.#house }));
	readonly #projects = createQuery(() => ({ ...ask.projects(), enabled: this.#house }));
	readonly #errands = createQuery(() => ({ ...ask.errands(), enabled: this.#house }));
	readonly #words = createQuery(() => ({ ...ask.words(), enabled: this.#house }));
	readonly #people = createQuery(() => ({ ...ask.people(), enabled: session.may('manage people') }));

	readonly places = $derived.by<Place[]>(() => [
		...listed(this.#dialects.data?.items, (row) => ({
			name: nameOf(row.app),
			about: 'application',
			address: `/dialects/${encodeURIComponent(row.app)}`
		})),
		...listed(this.#rollouts.data?.items, (row) => ({
			name: row.title,
			about: `rollout ${row.id}, ${row.state}`,
			address: `/rollouts/${row.id}`
		})),
		...listed(this.#trials.data?.items, (row) => ({
			name: row.title,
			about: `trial ${row.id}, ${row.state}`,
			address: `/measure/trials/${row.id}`
		})),
		...listed(this.#timelines.data?.items, (row) => ({
			name: row.name,
			about: 'timeline',
			address: `/measure/timelines/${row.id}`
		})),
		...listed(this.#projects.data?.items, (row) => ({
			name: row.file,
			about: row.seat ? `project on ${row.seat}` : 'project',
			address: `/stores/projects/${row.id}`
		})),
		...listed(
			this.#errands.data?.stops.flatMap((stop) => stop.errands),
			(row) => ({ name: row.does, about: `errand at ${row.seat}`, address: `/errands/${row.id}` })
		),
		...listed(this.#people.data?.items, (row) => ({ name: row.name, about: row.role, address: '/people' })),
		...listed(this.#words.data?.settings, (row) => ({
			name: row.title,
			about: 'setting, on every seat',
			address: `/drift?setting=${encodeURIComponent(row.key)}`
		})),
		...listed(this.#standard.data?.layers, (layer) =>
			layer.rules.map((rule) => ({ name: rule.sentence, about: `rule, ${layer.name}`, address: '/standard' }))
		)
	]);
}

function listed<Row>(rows: readonly Row[] | undefined, place: (row: Row) => Place | Place[]): Place[] {
	return (rows ?? []).flatMap(place);
}

<!-- The edition in force, and how it is shown: as sentences or as text, beside a seat or not. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { moment } from '../../model/words/moment';
	import { route } from '../../state/shell/route.svelte';

	type Props = { edition: Schemas['StandardOut']; asText: boolean; seat: string };
	let { edition, asText, seat }: Props = $props();

	const floor = createQuery(ask.floor);
	const seats = $derived(heardOf(floor.data?.items ?? []).map((place) => place.name));
	const about = $derived(
		[
			`edition ${edition.number}, ${moment(edition.published_at)}`,
			edition.published_by ? `, ${edition.published_by}` : '',
			edition.note ? `: ${edition.note}` : '',
			!edition.followed_at && edition.of > 0 ? `; checked on ${edition.judged} of ${edition.of} seats` : ''
		].join('')
	);
</script>

<div class="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
	<h1 class="text-2xl">{edition.name}</h1>
	<p class="word">{about}</p>
	<a class="anchor" href="/standard/templates">Project templates</a>
	<div class="ml-auto flex flex-wrap items-baseline gap-4">
		<label class="quiet flex items-center gap-2"
			>Compare with
			<select
				class="field w-auto py-1"
				value={seat}
				onchange={(event) => route.filter('seat', event.currentTarget.value)}
				><option value="">no seat</option>{#each seats as name (name)}<option>{name}</option>{/each}</select
			></label
		>
		<div class="flex gap-4" role="group" aria-label="Shown as">
			<button class="as" aria-pressed={!asText} onclick={() => route.filter('as', '')}>Sentences</button>
			<button class="as" aria-pressed={asText} onclick={() => route.filter('as', 'text')}>Text</button>
		</div>
	</div>
</div>

<style>
	.as {
		color: var(--muted);
		border-bottom: 2px solid transparent;
	}
	.as[aria-pressed='true'] {
		color: var(--ink);
		font-weight: 600;
		border-color: var(--kelp);
	}
</style>

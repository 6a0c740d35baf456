<!-- A survey that was carried here from a seat without a network. -->
<script lang="ts">
	import { api, data, type Fault, Problem, type Schemas } from '../../api/client';
	import { queryClient } from '../../api/queries';
	import { exactly } from '../../model/moment';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	let told = $state<Schemas['BroughtOut']>();
	let refused = $state<{ why: string; faults: Fault[] }>();

	async function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
		const file = event.currentTarget.files?.[0];
		if (!file) return;
		const body = new FormData();
		body.append('survey', file);
		try {
			told = await data(
				api.POST('/api/v1/surveys', {
					body: body as unknown as { survey: string },
					bodySerializer: (form) => form as unknown as FormData
				})
			);
			refused = undefined;
			await queryClient.invalidateQueries({ queryKey: ['seat'] });
		} catch (error) {
			told = undefined;
			refused = {
				why: (error as Error).message,
				faults: error instanceof Problem ? error.faults.slice(0, 20) : []
			};
		}
	}
</script>

<Sheet title="Bring a file" {onclose}>
	<p>
		On the seat, <span class="value">normant survey --out FILE</span> writes what it is like. Bring that file here.
	</p>
	<label class="mt-3 block"
		>Survey <input
			class="field mt-1 w-full"
			type="file"
			accept=".json,application/json"
			onchange={bring}
		/></label
	>
	{#if refused}
		<div class="mt-3" role="alert">
			<p class="text-oxblood">Nothing was taken. {refused.faults.length ? '' : refused.why}</p>
			<ul>
				{#each refused.faults as fault, index (index)}
					<li class="border-t border-hair py-1">
						<span class="value">{fault.line}:{fault.column} {fault.path}</span>
						{fault.message}
						<span class="quiet">{fault.expected ? `expected ${fault.expected}` : ''}</span>
					</li>
				{/each}
			</ul>
		</div>
	{/if}
	{#if told}
		<p class="mt-3" role="status">
			<a href="/seats/{told.seat}" onclick={onclose}>{told.seat}</a> as it was {exactly(told.taken_at)}:
			{told.changed ? 'its record is up to date' : 'nothing new, or older than what is known'}.
		</p>
	{/if}
</Sheet>

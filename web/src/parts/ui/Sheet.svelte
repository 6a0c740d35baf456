<!-- A sheet over the page: Skeleton's dialog in our manner. Escape closes it. -->
<script lang="ts">
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { Snippet } from 'svelte';

	type Props = {
		title: string;
		onclose: () => void;
		children: Snippet;
		wide?: boolean;
		first?: () => HTMLElement | null;
	};
	let { title, onclose, children, wide = false, first }: Props = $props();
</script>

<Dialog open {...first ? { initialFocusEl: first } : {}} onOpenChange={(change) => !change.open && onclose()}>
	<Portal>
		<Dialog.Backdrop class="fixed inset-0 z-40 bg-black/40" />
		<Dialog.Positioner class="fixed inset-0 z-50 flex items-start justify-center p-4 pt-[7vh]">
			<Dialog.Content
				class="flex max-h-[86vh] w-full flex-col border border-rule bg-paper text-ink shadow-xl {wide
					? 'max-w-5xl'
					: 'max-w-lg'}"
			>
				<header class="flex items-baseline gap-4 border-b border-hair px-5 py-3">
					<Dialog.Title class="font-head text-lg font-semibold">{title}</Dialog.Title>
					<Dialog.CloseTrigger class="quiet ml-auto">Close <kbd>Esc</kbd></Dialog.CloseTrigger>
				</header>
				<div class="min-h-0 overflow-y-auto px-5 py-4">{@render children()}</div>
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>

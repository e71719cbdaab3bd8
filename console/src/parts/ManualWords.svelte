<script lang="ts">
	import type { Words } from '../../manual';
	import Self from './ManualWords.svelte';

	/** A line of the manual: text, with code, stress and links in it. */
	const { words }: { words: Words } = $props();
</script>

{#each words as word, n (n)}{#if typeof word === 'string'}{word}{:else if word.kind === 'code'}<code
			><Self words={word.words} /></code
		>{:else if word.kind === 'strong'}<strong><Self words={word.words} /></strong
		>{:else if word.kind === 'em'}<em><Self words={word.words} /></em>{:else}<a
			href={word.to}
			rel={word.to?.startsWith('https://') ? 'noreferrer' : undefined}><Self words={word.words} /></a
		>{/if}{/each}

<style>
	code {
		padding: 0 0.25em;
		font-size: 0.875em;
		color: inherit;
		white-space: normal;
		overflow-wrap: anywhere;
		background: color-mix(in oklab, var(--line) 55%, transparent);
	}
</style>

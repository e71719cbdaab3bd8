<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A page's heading: sets the window's title too, and takes the focus so that readers hear where they are. */
	let {
		title,
		above = '',
		up = '',
		help,
		children,
		aside,
	}: {
		title: string;
		above?: string;
		up?: string;
		/** A page of the manual that helps here, and what it tells. */
		help?: readonly [page: string, tells: string];
		children?: Snippet;
		aside?: Snippet;
	} = $props();

	let heading: HTMLHeadingElement | undefined = $state();
	$effect(() => {
		// A field that asks for the focus by itself keeps it.
		if (document.activeElement === document.body || document.activeElement?.closest('nav, header'))
			heading?.focus();
	});
</script>

<svelte:head><title>{title} · High Shelf</title></svelte:head>
<div class="head">
	<div class="what">
		{#if above}<p class="above"><a href={up}>{above}</a></p>{/if}
		<h1 tabindex="-1" bind:this={heading}>{title}</h1>
		{@render children?.()}
		{#if help}<p class="help"><a href={`/manual/${help[0]}`}>{help[1]}</a></p>{/if}
	</div>
	{#if aside}<div class="aside">{@render aside()}</div>{/if}
</div>

<style>
	.head {
		display: flex;
		flex-wrap: wrap;
		gap: 0.6rem 1.5rem;
		align-items: flex-end;
		margin-bottom: 1.1rem;
	}
	.what {
		min-width: 0;
		flex: 1 1 20rem;
	}
	h1 {
		outline: none;
	}
	.above {
		font-size: 0.8125rem;
		margin-bottom: 0.15rem;
	}
	.help {
		font-size: 0.8125rem;
		margin-top: 0.15rem;
	}
	.aside {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem;
		align-items: center;
	}
</style>

<script lang="ts">
	import type { HTMLInputAttributes } from 'svelte/elements';

	type Given = Omit<HTMLInputAttributes, 'value' | 'id'> & {
		label: string;
		value: string;
		hint?: string;
		wrong?: string;
		list?: string;
		input?: HTMLInputElement;
	};
	let { label, value = $bindable(), hint = '', wrong = '', input = $bindable(), ...rest }: Given = $props();
	const id = $props.id();
	const about = $derived(
		[wrong && `${id}-wrong`, hint && `${id}-hint`].filter(Boolean).join(' ') || undefined,
	);
</script>

<div class="one">
	<label for={id}
		>{label}{#if !rest.required && !rest.disabled}<span class="may">&nbsp;may stay empty</span>{/if}</label
	>
	<input
		{id}
		class="field"
		bind:value
		bind:this={input}
		aria-describedby={about}
		aria-invalid={wrong ? 'true' : undefined}
		{...rest}
	/>
	{#if wrong}<p class="wrong" id="{id}-wrong">{wrong}</p>{/if}
	{#if hint}<p class="hint" id="{id}-hint">{hint}</p>{/if}
</div>

<style>
	label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	.may {
		margin-left: 0.35rem;
		font-weight: 400;
		color: var(--soft);
		font-size: 0.8125rem;
	}
	.hint,
	.wrong {
		font-size: 0.8125rem;
		margin-top: 0.2rem;
		color: var(--soft);
		overflow-wrap: anywhere;
	}
	.wrong {
		color: var(--fail);
		font-weight: 600;
	}
</style>

<script lang="ts">
	import Head from '../parts/Head.svelte';
</script>

<Head title="There is no such page" />
<p><a href="/">To what is up today</a></p>

<script lang="ts">
  import { p } from '../../router'
</script>

<div class="p-8">
  <h1 class="head-voice text-[38px]">Nothing is kept here</h1>
  <p class="mt-2">The address is wrong, or what stood here is gone.</p>
  <a class="btn btn-primary mt-4" href={p('/')}>Go to the bench</a>
</div>

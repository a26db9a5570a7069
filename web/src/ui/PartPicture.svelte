<!-- Where a hand turns or presses something: line drawings of ours, side views. The blue line is what to do. -->
<script lang="ts">
  import type { Schemas } from '../data/api'

  let { name, height = 220 }: { name: NonNullable<Schemas['Step']['picture']>; height?: number } = $props()
  const words: Record<typeof name, string> = {
    screen_out:
      'The group from the side, cut open. A blunt lever goes under the lip of the screen, on the left and on the ' +
      'right in turn. Where a screw sits in its middle, the screw comes out instead.',
    seal_section:
      'The groove of the group, cut open. From above: the shim, the seal with its flat side up, ' +
      'the screen in its bevelled side.',
    bath_level:
      'A handle leans on the rim of a tub. The water reaches to the edge of its metal; the grip stays dry.',
    cam_section:
      'The group from the side. The cap at the side comes off, and the cam is drawn straight out; its flat looks up.',
    joint_section: 'The joint of the steam wand, from outside to inside: nut, ring, spring, gasket, ball.',
  }
</script>

<figure class="m-0">
  <svg viewBox="0 0 360 220" {height} role="img" aria-label={words[name]}>
    <g fill="none" stroke="currentColor" stroke-width="4" stroke-linejoin="round" stroke-linecap="round">
      {#if name === 'screen_out'}
        <!-- the group's bell -->
        <path d="M40 20 V96 H84 V70 H276 V96 H320 V20" />
        <!-- seal and screen -->
        <rect x="88" y="74" width="26" height="24" fill="url(#pp-hatch)" /><rect
          x="246"
          y="74"
          width="26"
          height="24"
          fill="url(#pp-hatch)"
        />
        <path d="M108 104 H252 M108 104 V92 M252 104 V92" />
        <path d="M124 104 v0 M140 104 v0 M156 104 v0 M204 104 v0 M220 104 v0 M236 104 v0" stroke-width="9" />
        <!-- its screw -->
        <path d="M180 70 V104 M168 112 H192 M180 104 V112" />
        <!-- the lever -->
        <path d="M16 176 L104 112" class="act" /><path d="M344 176 L256 112" class="act" stroke-dasharray="10 9" />
        <path d="M30 132 q-10 14 -6 28" class="act" /><path d="M18 150 l6 11 l12 -4" class="act" />
      {:else if name === 'seal_section'}
        <path d="M30 20 V130 H66 M330 20 V130 H294 M66 130 V56 H294 V130" />
        <path d="M70 64 H118 M242 64 H290" stroke-width="6" stroke-dasharray="2 7" />
        <path d="M70 74 H118 V104 L104 118 H70 Z" fill="url(#pp-hatch)" /><path
          d="M290 74 H242 V104 L256 118 H290 Z"
          fill="url(#pp-hatch)"
        />
        <path d="M106 122 L122 106 H238 L254 122" /><path d="M106 132 H254" />
        <path d="M180 206 V152" class="act" /><path d="M166 166 L180 150 L194 166" class="act" />
      {:else if name === 'bath_level'}
        <path d="M50 60 L74 204 H286 L310 60" />
        <path d="M63 136 q12 -10 24 0 t24 0 t24 0 t24 0 t24 0 t24 0 t24 0 t24 0 t24 0 t14 0" class="act" />
        <!-- basket under water -->
        <path d="M96 176 h52 v20 h-52 z M104 196 v0 M120 196 v0 M136 196 v0" />
        <!-- handle: metal in, grip out -->
        <path d="M176 186 h70 v-22 h-70 z" /><path d="M240 168 L272 138" stroke-width="12" />
        <path d="M272 138 L338 62" stroke-width="20" stroke-dasharray="1 0" class="grip" />
      {:else if name === 'cam_section'}
        <path d="M96 30 V190 H264 V30 Z" /><path d="M264 84 H300 V136 H264" />
        <path d="M130 92 H250 V128 H130 Z" fill="url(#pp-hatch)" /><path d="M150 92 H230" stroke-width="9" />
        <path d="M300 84 h22 v52 h-22" stroke-dasharray="8 7" />
        <path d="M110 110 H40 M70 60 L40 110" stroke-width="9" />
        <path d="M214 110 H344" class="act" /><path d="M330 98 L346 110 L330 122" class="act" />
      {:else}
        <path d="M30 84 H92 V136 H30" /><circle cx="134" cy="110" r="30" />
        <path d="M176 84 V136" stroke-width="10" stroke-dasharray="2 9" /><path
          d="M196 88 l8 44 l8 -44 l8 44 l8 -44"
        />
        <path d="M244 84 V136" stroke-width="8" /><path d="M262 70 H306 V150 H262 Z M306 96 H350 M306 124 H350" />
      {/if}
    </g>
    <defs
      ><pattern id="pp-hatch" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
        ><path d="M0 0 V9" stroke="currentColor" stroke-width="3" /></pattern
      ></defs
    >
    <g class="tags">
      {#if name === 'screen_out'}<text x="26" y="202">lever</text><text x="118" y="46"
          >a screw, where it has one</text
        >
      {:else if name === 'seal_section'}<text x="126" y="70">shim</text><text x="126" y="94"
          >seal, flat side up</text
        ><text x="126" y="150">screen</text>
      {:else if name === 'bath_level'}<text x="196" y="44">grip stays out</text><text x="14" y="44"
          >water to the metal's edge</text
        >
      {:else if name === 'cam_section'}<text x="132" y="76">flat side up</text><text x="290" y="162">cap</text>
      {:else}<text x="110" y="60">ball</text><text x="152" y="76">gasket</text><text x="190" y="160">spring</text
        ><text x="232" y="76">ring</text><text x="270" y="60">nut</text>{/if}
    </g>
  </svg>
</figure>

<style>
  svg {
    max-width: 100%;
    height: auto;
  }
  .act {
    stroke: var(--color-act);
  }
  .grip {
    stroke-opacity: 0.55;
  }
  text {
    fill: currentColor;
    font-size: 15px;
    font-weight: 600;
    font-stretch: 75%;
  }
</style>

<script setup lang="ts">
/** A sketch of what matters most in a small job; figures in it give the order. The words stand beside it. */
defineProps<{ job: string }>();
const FIRST = 1;
</script>

<template>
  <svg viewBox="0 0 320 170" class="job" aria-hidden="true">
    <defs>
      <marker id="job-tip" viewBox="0 0 10 10" refX="8" refY="5" markerWidth="3.6" markerHeight="3.6" orient="auto-start-reverse">
        <path d="M0 0L10 5L0 10Z" class="tip" />
      </marker>
    </defs>
    <path v-if="!['drain', 'fill', 'air', 'stops', 'slope', 'airReplace'].includes(job)" d="M6 152H314" class="ground" />
    <g v-if="job === 'attachment'">
      <path d="M52 152L58 112H112L128 152Z" class="body" />
      <path d="M62 112V96H106V112" class="body" />
      <circle cx="70" cy="104" r="5" />
      <circle cx="98" cy="104" r="5" />
      <path d="M84 96L100 20L118 26L98 96" class="body" />
      <path d="M84 30V82" class="move" marker-end="url(#job-tip)" />
      <path d="M138 128H176" class="move" marker-end="url(#job-tip)" marker-start="url(#job-tip)" />
      <g transform="translate(216 26)">
        <rect width="70" height="34" class="body" />
        <rect x="58" y="9" width="34" height="16" class="bad" />
        <path d="M-22 6L-6 28M-6 6L-22 28" class="no" />
      </g>
      <g transform="translate(216 92)">
        <rect width="70" height="34" class="body" />
        <rect x="46" y="9" width="26" height="16" class="good" />
        <path d="M-24 18L-16 28L-4 6" class="yes" />
      </g>
    </g>
    <g v-else-if="job === 'carry'">
      <path d="M10 152L150 96" class="ramp" />
      <path d="M150 96H306V110H150Z" class="body" />
      <circle cx="196" cy="132" r="19" class="wheel" />
      <circle cx="238" cy="132" r="19" class="wheel" />
      <circle cx="286" cy="132" r="19" class="wheel" />
      <path d="M182 152l-8 -13h-8l-8 13" class="body" />
      <g transform="translate(78 125) rotate(-21.8)">
        <circle cx="-34" cy="-14" r="13" class="wheel" />
        <circle cx="30" cy="-14" r="13" class="wheel" />
        <path d="M-46 -26H44V-44H6V-66H-20V-44H-46Z" class="body" />
        <path d="M12 -26H46V-48H12Z" class="heavy" />
        <path d="M-46 -34L-66 -18L-58 -10" />
        <path d="M-12 -80H44" class="move" marker-end="url(#job-tip)" />
      </g>
    </g>
    <g v-else-if="job === 'slope'">
      <path d="M6 152H40L176 60" class="ground" />
      <g transform="translate(112 103) rotate(-34)">
        <circle cx="-26" cy="-11" r="11" class="wheel" />
        <circle cx="26" cy="-11" r="11" class="wheel" />
        <path d="M-38 -20H38V-36H4V-56H-18V-36H-38Z" class="body" />
        <path d="M10 -20H40V-40H10Z" class="heavy" />
        <path d="M-38 -26L-56 -10L-48 -4" />
        <path d="M-10 -70H40" class="move" marker-end="url(#job-tip)" marker-start="url(#job-tip)" />
      </g>
      <path d="M188 152L306 84" class="ground" />
      <g transform="translate(252 114) rotate(-30)">
        <rect x="-30" y="-18" width="14" height="18" class="wheel" />
        <rect x="16" y="-18" width="14" height="18" class="wheel" />
        <path d="M-26 -18V-44H26V-18Z" class="body" />
        <path d="M-16 -44V-66H16V-44" class="body" />
      </g>
      <path d="M214 18L282 74M282 18L214 74" class="no" />
    </g>
    <g v-else-if="job === 'fill'">
      <path d="M70 40V156H210V40" class="body" />
      <path d="M70 78H210V156H70Z" class="liquid" />
      <path d="M118 40V24H162V40" />
      <path d="M140 6V58" class="pipe" />
      <path d="M240 40V78" class="move" marker-end="url(#job-tip)" marker-start="url(#job-tip)" />
      <path d="M214 40H256M214 78H256" class="thin" />
      <g transform="translate(272 110)">
        <path d="M0 24C-16 10 -8 -4 0 -16C8 -4 16 10 0 24Z" class="flame" />
        <path d="M-22 -20L22 30" class="no" />
      </g>
      <g transform="translate(34 110)">
        <ellipse rx="22" ry="12" class="body" />
        <path d="M-22 0H-28M22 0H28M0 -12V12" />
      </g>
    </g>
    <g v-else-if="job === 'drain'">
      <path d="M30 14H170V72H30Z" class="body" />
      <path d="M30 40H170V72H30Z" class="liquid" />
      <path d="M100 72V86M100 106V116M100 136V146" class="pipe" />
      <g v-for="(y, i) in [96, 126]" :key="y" :transform="`translate(100 ${y})`">
        <path d="M-15 -10L15 10V-10L-15 10Z" class="body" />
        <path d="M15 0H34" />
        <g v-for="(n, k) in i === 0 ? [3, 4] : [2, 5]" :key="n" :transform="`translate(${58 + 32 * k} 0)`">
          <circle r="12" class="figure" />
          <text y="6">{{ n }}</text>
        </g>
      </g>
      <path d="M62 146H138L132 166H68Z" class="body" />
      <g transform="translate(40 150)">
        <circle r="12" class="figure" />
        <text y="6">{{ FIRST }}</text>
      </g>
    </g>
    <g v-else-if="job === 'climb'">
      <path d="M150 152V10M198 152V10M150 132H198M150 106H198M150 80H198M150 54H198M150 28H198" />
      <circle cx="112" cy="44" r="12" class="body" />
      <path d="M112 56L118 104" class="limb" />
      <path d="M114 66L150 54M114 70L150 86" class="limb" />
      <path d="M118 104L150 132M118 104L104 128L120 150" class="limb" />
      <circle
        v-for="[x, y] in [
          [150, 54],
          [150, 86],
          [150, 132],
        ]"
        :key="y"
        :cx="x"
        :cy="y"
        r="7"
        class="contact" />
      <path d="M250 10V92" class="thin" />
      <path d="M232 92H268V122H232Z" class="body" />
      <path d="M250 76V40" class="move" marker-end="url(#job-tip)" />
    </g>
    <g v-else-if="job === 'stops'">
      <path d="M96 150V96H224V150Z" class="body" />
      <path d="M128 96V80H192V96" class="body" />
      <path d="M112 80C112 44 208 44 208 80Z" class="red" />
      <path d="M160 6V38" class="move" marker-end="url(#job-tip)" />
      <path d="M228 62A 48 30 0 0 1 228 104" class="move" marker-end="url(#job-tip)" />
      <circle cx="250" cy="130" r="10" class="good" />
    </g>
    <g v-else-if="job === 'approach'">
      <path d="M24 150H120V138H24Z" class="wheel" />
      <path d="M30 138V104H110V138Z" class="body" />
      <path d="M62 104V62H104V104" class="body" />
      <circle cx="84" cy="82" r="9" class="contact" />
      <path d="M110 112L158 70L184 120" />
      <path d="M172 120H196L200 152H168Z" class="body" />
      <circle cx="270" cy="86" r="10" class="body" />
      <path d="M270 96V126M270 126L258 152M270 126L282 152M270 104L252 84M270 104L286 118" class="limb" />
      <path d="M128 44A 40 40 0 0 1 128 84M142 34A 58 58 0 0 1 142 92" class="move" />
      <path d="M226 20V152" class="edge" />
    </g>
    <g v-else-if="job === 'service'">
      <circle cx="70" cy="130" r="22" class="wheel" />
      <circle cx="172" cy="130" r="22" class="wheel" />
      <path d="M40 118V86H120V52H156V86H196V118Z" class="body" />
      <path d="M118 96L238 34" class="limb" />
      <path d="M230 26L270 40L262 64L234 46Z" class="body" />
      <path d="M178 78L178 92L214 62V50" class="good" />
      <path d="M104 152l-7 -12h-6l-7 12M206 152l-4 -12h-6l-4 12" class="body" />
      <g transform="translate(282 112)">
        <path d="M-12 0V-12A12 12 0 0 1 12 -12V0" />
        <rect x="-18" width="36" height="28" class="red" />
      </g>
    </g>
    <g v-else-if="job === 'support'">
      <circle cx="60" cy="130" r="22" class="wheel" />
      <circle cx="168" cy="130" r="22" class="wheel" />
      <path d="M30 118V84H108V50H148V84H190V118Z" class="body" />
      <circle cx="128" cy="66" r="8" class="contact" />
      <path d="M104 92L244 28" class="limb" />
      <path d="M236 20L280 32L272 58L242 42Z" class="body" />
      <path d="M160 104L216 46" />
      <path d="M178 86L206 57" class="good" />
      <circle cx="140" cy="98" r="11" class="body" />
      <path d="M140 109V138M140 138L128 166M140 138L154 166M140 118L174 92M140 118L122 132" class="limb" />
      <path d="M232 92L276 136M276 92L232 136" class="no" />
    </g>
    <g v-else-if="job === 'press'">
      <path d="M120 152L112 84H302L294 152Z" class="body" />
      <path d="M116 112H298L294 152H120Z" class="liquid" />
      <path d="M176 84V152M238 84V152" class="thin" />
      <g v-for="(x, i) in [268, 206, 146]" :key="x" :transform="`translate(${x} 132)`">
        <circle r="12" class="figure" />
        <text y="6">{{ i + FIRST }}</text>
      </g>
      <path d="M20 120L60 24L150 30" class="limb" />
      <path d="M138 22H180L172 54H146Z" class="body" />
      <path d="M160 62V78" class="move" marker-end="url(#job-tip)" />
      <path d="M14 152V104H36V152Z" class="body" />
    </g>
    <g v-else-if="job === 'skip'">
      <path d="M24 120L70 22L180 26" class="limb" />
      <path d="M14 152V104H38V152Z" class="body" />
      <path d="M180 26V58" class="pipe" />
      <path d="M180 58A9 9 0 1 1 171 67" />
      <path d="M180 78L128 100M180 78L232 100" class="thin" />
      <path d="M120 100H240L226 138H134Z" class="body" />
      <path d="M258 108V150" class="move" marker-end="url(#job-tip)" marker-start="url(#job-tip)" />
      <path d="M150 150H92" class="move" marker-end="url(#job-tip)" />
      <circle cx="288" cy="84" r="10" class="body" />
      <path d="M288 94V124M288 124L278 152M288 124L298 152M288 102L268 84M288 102L304 116" class="limb" />
    </g>
    <g v-else-if="job === 'air' || job === 'airReplace'">
      <path d="M90 20H230V150H90Z" class="body" />
      <path d="M128 20V150M192 20V150" class="thin" />
      <path
        v-for="y in [40, 64, 88, 112, 136]"
        :key="y"
        :d="`M90 ${y}L128 ${y - 10}M90 ${y}L128 ${y + 2}M192 ${y - 10}L230 ${y}M192 ${y + 2}L230 ${y}`"
        class="thin" />
      <path d="M160 4V74" class="pipe" />
      <path d="M154 84H66" class="move" marker-end="url(#job-tip)" />
      <path d="M166 84H254" class="move" marker-end="url(#job-tip)" />
      <path d="M154 112H66M166 112H254" class="move" marker-end="url(#job-tip)" />
      <g transform="translate(288 130)">
        <circle r="14" class="lamp" />
        <path d="M-20 0H-26M20 0H26M0 -20V-26M0 20V26" />
      </g>
    </g>
  </svg>
</template>

<style scoped>
.job { width: 100%; max-width: 420px; display: block; } path, circle, rect, ellipse { fill: none; stroke: var(--ink); stroke-width: 2.4; stroke-linejoin: round; stroke-linecap: round; }
.body { fill: var(--card); } .wheel { fill: var(--track); } .heavy { fill: var(--ink); } .liquid { fill: var(--track); stroke-width: 1.4; } .ground, .ramp { stroke-width: 4; } .thin { stroke-width: 1.3; } .pipe { stroke-width: 6; } .limb { stroke-width: 5; }
.move { stroke: var(--here); stroke-width: 4; } .tip { fill: var(--here); stroke: none; } .no { stroke: var(--hold); stroke-width: 6; } .yes { stroke: var(--sound); stroke-width: 6; } .bad, .red { fill: var(--hold); stroke: var(--hold); } .good { fill: var(--sound); stroke: var(--sound); } path.good { fill: none; stroke-width: 7; }
.contact { fill: var(--here); stroke: var(--here); } .flame { fill: var(--hold); stroke: none; } .edge { stroke: var(--hold); stroke-width: 3; stroke-dasharray: 10 7; } .lamp { fill: var(--here-soft); } .figure { fill: var(--ink); stroke: none; } text { fill: var(--paper); font-size: 16px; font-weight: 700; text-anchor: middle; }
</style>

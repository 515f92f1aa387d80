<template>
  <p class="quiet credit">
    Hosting networks by the AS numbers of Route Views and
    <a href="https://db-ip.com" target="_blank" rel="noopener">IP Geolocation by DB-IP</a>, changed (CC BY
    4.0).
  </p>
</template>

<style scoped>
/* Their licence asks for a link wherever what follows from them is shown. */
.credit {
  margin: 6px 0 0;
  font-size: 13px;
}
a {
  color: var(--fern);
}
</style>

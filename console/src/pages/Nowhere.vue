<template>
  <div class="page">
    <h1>Page not found</h1>
    <p><RouterLink to="/families">Go to the catalog</RouterLink></p>
  </div>
</template>

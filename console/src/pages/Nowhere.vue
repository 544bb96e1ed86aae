<template>
  <div class="page">
    <h1>Nothing at this address</h1>
    <p><RouterLink to="/families">Go to the catalog</RouterLink></p>
  </div>
</template>

package catalog

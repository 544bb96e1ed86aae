module sparecrate

go 1.26.8

require (
	github.com/andybalholm/brotli v1.2.8
	github.com/labstack/echo/v5 v5.4.4
	github.com/oapi-codegen/runtime v1.8.0
	golang.org/x/text v0.43.0
)

require (
	github.com/apapsch/go-jsonmerge/v2 v2.0.0 // indirect
	github.com/google/uuid v1.6.0 // indirect
	github.com/stretchr/testify v1.12.1 // indirect
	golang.org/x/net v0.59.0 // indirect
)

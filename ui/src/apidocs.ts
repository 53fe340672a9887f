// The page at /api/docs: the API's description as its server has it, with a way to try
// each operation. What is tried is done: it asks as whoever is logged in.
import SwaggerUI from "swagger-ui-dist/swagger-ui-es-bundle";
import "swagger-ui-dist/swagger-ui.css";

SwaggerUI({
  dom_id: "#api",
  url: "/api/v1/openapi.json",
  deepLinking: true,
  docExpansion: "none",
  defaultModelsExpandDepth: 0,
  displayRequestDuration: true,
  filter: true,
  operationsSorter: "alpha",
  tagsSorter: "alpha",
  validatorUrl: null,
});

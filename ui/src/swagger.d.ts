declare module "swagger-ui-dist/swagger-ui-es-bundle" {
  const SwaggerUI: (options: Record<string, unknown>) => void;
  export default SwaggerUI;
}

/** How a program sends here. Where the server asks for a token, its place is named; the token itself is not shown. */
export function sdkSettings(origin: string, withToken: boolean): string[] {
  return [
    `OTEL_EXPORTER_OTLP_ENDPOINT=${origin}`,
    'OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf',
    'OTEL_SERVICE_NAME=your-service',
    // The values of headers are percent-encoded (OpenTelemetry, OTLP exporter settings).
    ...(withToken ? ['OTEL_EXPORTER_OTLP_HEADERS=authorization=Bearer%20your-token'] : [])
  ];
}

export function uploadCommand(origin: string, withToken: boolean): string {
  const header = withToken ? '-H "authorization: Bearer your-token" ' : '';
  return `curl ${header}--data-binary @profile.cpuprofile "${origin}/api/evidence?name=profile&service=berths"`;
}

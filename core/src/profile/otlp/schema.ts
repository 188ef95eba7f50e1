import protobuf from 'protobufjs/light.js';

/**
 * The part of OpenTelemetry's profiles that Tromix reads, with the field numbers of opentelemetry-proto 1.9 and later (profiles/v1development, collector/profiles/v1development,
 * common/v1, resource/v1). The schema is under development: others before it have the same names and other numbers. Fields not named here are skipped.
 */
type Field = { id: number; type: string; rule?: 'repeated' };
const one = (id: number, type: string): Field => ({ id, type });
const many = (id: number, type: string): Field => ({ id, type, rule: 'repeated' });

const root = protobuf.Root.fromJSON({
  nested: {
    AnyValue: {
      oneofs: { value: { oneof: ['stringValue', 'boolValue', 'intValue', 'doubleValue'] } },
      fields: {
        stringValue: one(1, 'string'),
        boolValue: one(2, 'bool'),
        intValue: one(3, 'int64'),
        doubleValue: one(4, 'double')
      }
    },
    KeyValue: { fields: { key: one(1, 'string'), value: one(2, 'AnyValue') } },
    Resource: { fields: { attributes: many(1, 'KeyValue') } },
    ValueType: { fields: { typeStrindex: one(1, 'int32'), unitStrindex: one(2, 'int32') } },
    Sample: {
      fields: {
        stackIndex: one(1, 'int32'),
        attributeIndices: many(2, 'int32'),
        values: many(4, 'int64'),
        timestampsUnixNano: many(5, 'fixed64')
      }
    },
    Profile: {
      fields: {
        sampleType: one(1, 'ValueType'),
        samples: many(2, 'Sample'),
        timeUnixNano: one(3, 'fixed64'),
        durationNano: one(4, 'uint64'),
        periodType: one(5, 'ValueType'),
        period: one(6, 'int64')
      }
    },
    ScopeProfiles: { fields: { profiles: many(2, 'Profile') } },
    ResourceProfiles: { fields: { resource: one(1, 'Resource'), scopeProfiles: many(2, 'ScopeProfiles') } },
    Mapping: { fields: { filenameStrindex: one(4, 'int32') } },
    Line: { fields: { functionIndex: one(1, 'int32'), line: one(2, 'int64') } },
    Location: {
      fields: {
        mappingIndex: one(1, 'int32'),
        address: one(2, 'uint64'),
        lines: many(3, 'Line'),
        attributeIndices: many(4, 'int32')
      }
    },
    Function: {
      fields: {
        nameStrindex: one(1, 'int32'),
        systemNameStrindex: one(2, 'int32'),
        filenameStrindex: one(3, 'int32'),
        startLine: one(4, 'int64')
      }
    },
    KeyValueAndUnit: {
      fields: { keyStrindex: one(1, 'int32'), value: one(2, 'AnyValue'), unitStrindex: one(3, 'int32') }
    },
    Stack: { fields: { locationIndices: many(1, 'int32') } },
    ProfilesDictionary: {
      fields: {
        mappingTable: many(1, 'Mapping'),
        locationTable: many(2, 'Location'),
        functionTable: many(3, 'Function'),
        stringTable: many(5, 'string'),
        attributeTable: many(6, 'KeyValueAndUnit'),
        stackTable: many(7, 'Stack')
      }
    },
    ProfilesData: {
      fields: { resourceProfiles: many(1, 'ResourceProfiles'), dictionary: one(2, 'ProfilesDictionary') }
    }
  }
});

export const ProfilesData = root.lookupType('ProfilesData');

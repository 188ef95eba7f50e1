"""Writes two profiles that Node.js and a JVM recorded as OTLP profiles, by the code that is generated from the published schema.

Needs the packages opentelemetry-proto (1.45.0 was used) and protobuf: python3 record.py
"""
import gzip
import json
import pathlib
from datetime import datetime

from google.protobuf import json_format
from opentelemetry.proto.collector.profiles.v1development import profiles_service_pb2 as service
from opentelemetry.proto.profiles.v1development import profiles_pb2 as pb

HERE = pathlib.Path(__file__).parent
START_NS = 1_790_000_000_000_000_000


class Message:
    """A message whose tables hold each entry once; entry 0 stands for none."""

    def __init__(self, service_name, pid):
        self.request = service.ExportProfilesServiceRequest()
        self.group = self.request.resource_profiles.add()
        for key, value in {'service.name': service_name, 'service.version': '8.2', 'host.name': 'quay-3'}.items():
            self.group.resource.attributes.add(key=key).value.string_value = value
        self.group.resource.attributes.add(key='process.pid').value.int_value = pid
        self.scope = self.group.scope_profiles.add()
        self.tables = self.request.dictionary
        self.seen = {}
        self.tables.string_table.append('')
        for table in ('mapping', 'location', 'function', 'link', 'attribute', 'stack'):
            getattr(self.tables, f'{table}_table').add()

    def text(self, text):
        return self.entry('text', text, lambda: self.tables.string_table.append(text), self.tables.string_table)

    def entry(self, table, key, add, entries):
        known = self.seen.get((table, key))
        if known is None:
            add()
            known = self.seen[(table, key)] = len(entries) - 1
        return known

    def function(self, name, file, line):
        name, file = self.text(name), self.text(file)
        return self.entry(
            'function',
            (name, file, line),
            lambda: self.tables.function_table.add(name_strindex=name, filename_strindex=file, start_line=line),
            self.tables.function_table,
        )

    def location(self, function, line):
        def add():
            self.tables.location_table.add().lines.add(function_index=function, line=line)

        return self.entry('location', (function, line), add, self.tables.location_table)

    def stack(self, locations):
        """Innermost first."""
        return self.entry(
            'stack',
            tuple(locations),
            lambda: self.tables.stack_table.add(location_indices=locations),
            self.tables.stack_table,
        )

    def attribute(self, key, value):
        at = self.text(key)

        def add():
            self.tables.attribute_table.add(key_strindex=at).value.string_value = value

        return self.entry('attribute', (key, value), add, self.tables.attribute_table)

    def profile(self, kind, unit):
        profile = self.scope.profiles.add(time_unix_nano=START_NS)
        profile.sample_type.type_strindex = self.text(kind)
        profile.sample_type.unit_strindex = self.text(unit)
        return profile

    def write(self, name):
        content = self.request.SerializeToString(deterministic=True)
        (HERE / f'{name}.pb.gz').write_bytes(gzip.compress(content, mtime=0))
        text = json_format.MessageToJson(self.request, indent=None, always_print_fields_with_no_presence=False)
        (HERE / f'{name}.json.gz').write_bytes(gzip.compress(text.encode(), mtime=0))


def node():
    """CPU time with a moment and a weight for each sample."""
    told = json.loads(gzip.open(HERE.parent / 'thrower.cpuprofile.gz').read())
    message = Message('thrower', 4711)
    profile = message.profile('cpu', 'nanoseconds')
    parents = {child: node['id'] for node in told['nodes'] for child in node.get('children', [])}
    nodes = {node['id']: node for node in told['nodes']}

    def stack(at):
        locations = []
        while at in parents:
            call = nodes[at]['callFrame']
            line = call['lineNumber'] + 1
            locations.append(message.location(message.function(call['functionName'], call['url'], line), line))
            at = parents[at]
        return message.stack(locations)

    series = {}
    at = told['startTime']
    deltas = told['timeDeltas']
    for i, node in enumerate(told['samples']):
        at += deltas[i]
        ends = at + deltas[i + 1] if i + 1 < len(deltas) else told['endTime']
        if ends > at:
            series.setdefault(node, []).append(((at - told['startTime']) * 1000, (ends - at) * 1000))
    for node, points in series.items():
        profile.samples.add(
            stack_index=stack(node),
            timestamps_unix_nano=[START_NS + time for time, _ in points],
            values=[weight for _, weight in points],
        )
    profile.duration_nano = (told['endTime'] - told['startTime']) * 1000
    message.write('node')


def jvm():
    """Samples that are counted, of several threads, with how often they were taken."""
    events = json.loads(gzip.open(HERE.parent / 'tides.jfr.json.gz').read())['recording']['events']
    samples = [event['values'] for event in events if event['type'] == 'jdk.ExecutionSample']
    message = Message('tides', 4712)
    profile = message.profile('samples', 'count')
    profile.period_type.type_strindex = message.text('cpu')
    profile.period_type.unit_strindex = message.text('nanoseconds')
    profile.period = 20_000_000
    first = min(moment(sample['startTime']) for sample in samples)
    series = {}
    for sample in samples:
        frames = sample['stackTrace']['frames']
        locations = [
            message.location(
                message.function(f"{frame['method']['type']['name'].replace('/', '.')}.{frame['method']['name']}", '', 0),
                frame['lineNumber'],
            )
            for frame in frames
        ]
        thread = message.attribute('thread.name', sample['sampledThread']['javaName'])
        series.setdefault((message.stack(locations), thread), []).append(moment(sample['startTime']) - first)
    for (stack, thread), times in series.items():
        profile.samples.add(
            stack_index=stack, attribute_indices=[thread], timestamps_unix_nano=[START_NS + time for time in times]
        )
    profile.duration_nano = 10_000_000_000
    message.write('jvm')


def moment(text):
    """Nanoseconds since the epoch of a time like 2026-11-30T13:00:00.123456789Z."""
    head, rest = text.removesuffix('Z').split('.')
    return int(datetime.fromisoformat(head + '+00:00').timestamp()) * 1_000_000_000 + int(rest.ljust(9, '0'))


node()
jvm()

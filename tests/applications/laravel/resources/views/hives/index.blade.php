<x-layout title="Hives">
  <form><input name="part" value="{{ $part }}"></form>
  <p>Looking for {!! $part !!}</p> {{-- weak: injection/page-output --}}
  @forelse ($hives as $hive)
    <a href="{{ route('hives.show', $hive) }}">{{ $hive->name }}</a>
  @empty
    <p>No hives.</p>
  @endforelse
  <script>
    const part = @json($part);
  </script>
</x-layout>

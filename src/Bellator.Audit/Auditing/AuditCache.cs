using Bellator.Analysis.Incremental;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>
/// What one audit leaves for the next one over nearly the same material, so that only what changed, and what depends on it, is done
/// again. The results are those of an audit without it. One audit at a time may use it.
/// </summary>
public sealed class AuditCache
{
    private CachedAudit? _kept;

    /// <summary>Files that the last audit did not have to read, and visits of functions that it did not have to make.</summary>
    public (int Files, int Visits) Reused { get; internal set; }

    /// <summary>Visits of functions that the last audit made or reused.</summary>
    public int Analyses { get; internal set; }

    /// <summary>Forgets everything.</summary>
    public void Clear() => _kept = null;

    /// <summary>What was kept under the same facts. It is gone until it is put back: an audit that ends early leaves nothing half done.</summary>
    internal CachedAudit Take(LibraryModels facts)
    {
        var kept = _kept is not null && ReferenceEquals(_kept.Facts, facts) ? _kept : new CachedAudit(facts);
        _kept = null;
        Reused = default;
        return kept;
    }

    internal void Put(CachedAudit kept) => _kept = kept;

    /// <summary>A file as it was read, with what there was to say about that.</summary>
    internal sealed record CachedFile(SourceFile Source, IrFile Code, IReadOnlyList<AuditNote> Notes);

    /// <summary>The files and the program of one audit.</summary>
    internal sealed class CachedAudit(LibraryModels facts)
    {
        private Dictionary<string, CachedFile> _files = new(StringComparer.Ordinal);
        private ProgramModel? _program;

        public LibraryModels Facts { get; } = facts;

        public AnalysisCache Analyses { get; private set; } = new();

        /// <summary>What statements look like to a parser, by their text.</summary>
        public Dictionary<string, IReadOnlyList<string>?> Statements { get; } = new(StringComparer.Ordinal);

        /// <summary>The file as it was read before, if it is still the same.</summary>
        public CachedFile? Find(SourceFile file) =>
            _files.TryGetValue(file.Path, out var known) && known.Source.Language == file.Language && known.Source.Content.AsSpan().SequenceEqual(file.Content) ? known : null;

        public bool Has(CachedFile file) => _files.TryGetValue(file.Source.Path, out var known) && ReferenceEquals(known, file);

        /// <summary>Puts the program together, out of the last one where that is possible.</summary>
        public ProgramModel Build(SourceTree tree, CachedFile[] files)
        {
            IrFile[] code = [.. files.Select(f => f.Code)];
            ProgramModel? renewed = null;
            if (_program is { } last && last.Files.Count == code.Length && last.Files.Zip(code).All(p => p.First.Source.Path == p.Second.Source.Path && p.First.Source.Language == p.Second.Source.Language))
            {
                int[] changed = [.. Enumerable.Range(0, code.Length).Where(i => !ReferenceEquals(last.Files[i], code[i]))];
                renewed = last.UpdatedWith(tree, code);
                if (renewed is not null)
                {
                    Analyses.Begin(changed.SelectMany(i => code[i].Functions));
                }
            }

            if (renewed is null)
            {
                renewed = ProgramModel.Build(tree, code);
                Analyses = new AnalysisCache();
            }

            _program = renewed;
            _files = files.Select((f, i) => f with { Code = code[i] }).ToDictionary(f => f.Source.Path, StringComparer.Ordinal);
            return renewed;
        }
    }
}

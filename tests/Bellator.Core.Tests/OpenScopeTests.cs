namespace Bellator.Core.Tests;

/// <summary>
/// Conditions that a mapped class puts on all its queries, and leaves out where nobody is there (CWE-636). Common practice; how scopes are
/// declared is from the frameworks' documentation, from memory.
/// </summary>
public sealed class OpenScopeTests
{
    private static string Trait(string body) => $$"""
        <?php
        namespace App\Models\Concerns;
        use Illuminate\Database\Eloquent\Builder;
        trait OfKeeper {
            protected static function bootOfKeeper(): void {
                static::addGlobalScope('keeper', function (Builder $query) { {{body}} });
            }
        }
        """;

    private static string Scope(string body) => $$"""
        <?php
        namespace App\Models;
        use Illuminate\Database\Eloquent\{Builder, Model, Scope};
        class DistrictScope implements Scope {
            public function apply(Builder $builder, Model $model): void { {{body}} }
        }
        class Apiary extends Model { protected static function booted(): void { static::addGlobalScope(new DistrictScope()); } }
        """;

    [Theory]
    [InlineData("if (auth()->check()) { $query->where('keeper_id', auth()->id()); }", true)]
    [InlineData("if (!auth()->check()) { return; } $query->where('keeper_id', auth()->id());", true)]
    [InlineData("if ($keeper = session('keeper_id')) { $query->where('keeper_id', $keeper); }", true)]
    [InlineData("$query->where('keeper_id', auth()->id());", false)]
    [InlineData("if (!auth()->check()) { $query->whereRaw('1 = 0'); return; } $query->where('keeper_id', auth()->id());", false)]
    [InlineData("if (!auth()->check()) { abort(401); } $query->where('keeper_id', auth()->id());", false)]
    [InlineData("if (auth()->user()?->isInspector()) { return; } $query->where('keeper_id', auth()->id());", false)]
    [InlineData("if (app()->runningInConsole()) { return; } $query->where('keeper_id', auth()->id());", false)]
    public void Of_a_trait(string body, bool isOpen) => Assert.Equal(isOpen, IsOpen(("app/Models/Concerns/OfKeeper.php", Trait(body))));

    [Theory]
    [InlineData("if (Auth::check()) { $builder->where($model->qualifyColumn('district_id'), Auth::user()->district_id); }", true)]
    [InlineData("$builder->where($model->qualifyColumn('district_id'), Auth::user()?->district_id ?? 0);", false)]
    public void Of_a_class(string body, bool isOpen) => Assert.Equal(isOpen, IsOpen(("app/Models/Apiary.php", Scope(body))));

    [Theory]
    [InlineData("default_scope { Current.district ? where(district_id: Current.district.id) : all }", true)]
    [InlineData("default_scope { Current.district.present? ? where(district: Current.district) : all }", true)]
    [InlineData("default_scope { where(district_id: Current.district&.id) }", false)]
    [InlineData("default_scope { order(:name) }", false)]
    public void Of_a_record(string line, bool isOpen) => Assert.Equal(isOpen, IsOpen(("app/models/apiary.rb", $"class Apiary < ApplicationRecord\n  {line}\nend\n")));

    private static bool IsOpen((string Path, string Code) file) => Auditor.Run(file).Findings.Any(f => f.CheckId == "records/open-when-anonymous");
}

using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Which libraries keep a program's sessions, by what its files import and call.</summary>
internal static class SessionLibraries
{
    /// <summary>A session is told by an id, which somebody can plant: in a cookie that holds all of it there is none.</summary>
    public static bool HaveIds(AccountContext context, Language language)
    {
        var family = Languages.Family(language);
        var files = context.Program.Files.Where(f => Languages.Family(f.Source.Language) == family).ToList();

        // One that shows by a call may sign people in beside the session that is written into.
        var used = context.Flow.Facts.For(family).Credentials.Where(m => m.Kind == "session" && m.Imports.Count > 0 && files.Exists(f => Shows(f, m))).ToList();

        // Sessions of Python's frameworks are mostly signed cookies.
        return used.Count == 0 ? language != Language.Python : used.Exists(m => !m.InBrowser || m.OrOnServer);
    }

    /// <summary>The file imports the library, or makes a call that only it has.</summary>
    public static bool Shows(IrFile file, CredentialModel model)
    {
        bool IsNamed(string module, string? name) => model.Imports.Contains(Dotted(module)) || (name is not null && model.Imports.Contains(Dotted(module) + "." + name));
        return (model.Imports.Count > 0 && (file.Imports.Values.Any(i => IsNamed(i.Module, i.Name)) || ImportedModules.Of(file).Any(m => IsNamed(m, null))))
            || (model.Calls.Count > 0 && (file.Functions.Exists(f => f.NamedCalls.Any(c => model.Calls.Contains(c.Name))) || ImportedModules.Mentions(file, model.Calls)));
    }

    private static string Dotted(string module) => module.Replace('\\', '.');
}

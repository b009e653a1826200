using System.Reflection;
using Bellator.Analysis.Domain;
using Bellator.Audit.Auditing;
using Bellator.Passwords;
using Bellator.Syntax;
using Bellator.Text;
using Bellator.Tokens;
using NetArchTest.Rules;

namespace Bellator.Core.Tests;

/// <summary>
/// References only go upwards in the order of docs/architecture.md. Between assemblies the compiler keeps it; between the folders of one,
/// these tests do.
/// </summary>
public sealed class ArchitectureTests
{
    /// <summary>The folders of each assembly that has an order inside, first those that know nothing of the others.</summary>
    private static readonly (Assembly Assembly, string[] Folders)[] Orders =
    [
        (typeof(Expression).Assembly, ["Parsing"]),
        (typeof(Taint).Assembly, ["Ir", "Programs", "Libraries", "Domain", "Html", "Guards", "Events", "Summaries"]),
        (typeof(AuditPipeline).Assembly, ["Sql", "RowSecurity", "Tables", "Witnesses", "Endpoints", "Accounts", "Access", "Sessions", "Scoring", "Checks", "Auditing", "Comparison", "Knowledge", "Standards", "Reports"]),
    ];

    public static TheoryData<string> Folders => [.. Orders.SelectMany(o => o.Folders.Select(f => o.Assembly.GetName().Name + "." + f))];

    [Theory]
    [MemberData(nameof(Folders))]
    public void A_folder_knows_only_those_before_it(string folder)
    {
        var (assembly, order) = Orders.First(o => folder.StartsWith(o.Assembly.GetName().Name + ".", StringComparison.Ordinal));
        var name = assembly.GetName().Name!;
        var all = assembly.GetTypes().Select(t => t.Namespace).OfType<string>().Where(n => n.StartsWith(name + ".", StringComparison.Ordinal)).Select(n => string.Join('.', n.Split('.').Take(3))).Distinct();
        var before = order.Take(Array.IndexOf(order, folder[(name.Length + 1)..]) + 1).Select(f => name + "." + f);
        var result = Types.InAssembly(assembly).That().ResideInNamespace(folder).ShouldNot().HaveDependencyOnAny([.. all.Except(before)]).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    public static TheoryData<string> Assemblies => [.. new[] { typeof(SourceFile), typeof(Expression), typeof(Taint), typeof(HashScheme), typeof(TokenRemark), typeof(AuditPipeline) }.Select(t => t.Assembly.GetName().Name!)];

    [Theory]
    [MemberData(nameof(Assemblies))]
    public void What_computes_knows_no_interface_database_or_network(string assembly)
    {
        var result = Types.InAssembly(Assembly.Load(assembly)).ShouldNot()
            .HaveDependencyOnAny("Microsoft.AspNetCore", "Npgsql", "System.Net.Http", "System.Net.Sockets", "System.Console").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }
}

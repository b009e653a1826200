using NetArchTest.Rules;

namespace Bellator.Core.Tests;

/// <summary>References only go upwards in the order of docs/architecture.md.</summary>
public sealed class ArchitectureTests
{
    private static readonly string[] Order = ["Sources", "Parsing", "Syntax", "Code", "Programs", "Facts", "Flow", "Passwords", "Application", "Scoring", "Checks", "Auditing", "Comparison", "Knowledge", "Standards", "Reports"];

    public static TheoryData<string> Stages => [.. Order];

    [Theory]
    [MemberData(nameof(Stages))]
    public void A_stage_knows_only_those_before_it(string stage)
    {
        var later = Order.Skip(Array.IndexOf(Order, stage) + 1).Select(s => "Bellator.Core." + s).ToArray();
        var result = Types.InAssembly(typeof(Sources.SourceFile).Assembly).That().ResideInNamespace("Bellator.Core." + stage).ShouldNot().HaveDependencyOnAny(later).GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void The_core_knows_no_interface_database_or_network()
    {
        var result = Types.InAssembly(typeof(Sources.SourceFile).Assembly).ShouldNot()
            .HaveDependencyOnAny("Microsoft.AspNetCore", "Npgsql", "System.Net.Http", "System.Net.Sockets", "System.Console").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }
}

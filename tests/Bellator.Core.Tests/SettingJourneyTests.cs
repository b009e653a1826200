using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>Journeys that a file with settings turns on. The keys are those of Symfony's documentation, from memory.</summary>
public sealed class SettingJourneyTests
{
    private const string Controller = """
        <?php
        namespace App\Controller;

        use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
        use Symfony\Component\HttpFoundation\Response;
        use Symfony\Component\Routing\Attribute\Route;

        class AccountController extends AbstractController
        {
            #[Route('/{_locale}/sign-in', name: 'app_sign_in')]
            public function signIn(): Response
            {
                return new Response('');
            }
        }
        """;

    [Fact]
    public void A_sign_in_by_form_has_the_path_of_the_route_that_it_names()
    {
        var result = Run("form_login: { login_path: app_sign_in, check_path: app_sign_in }", "login_throttling: { max_attempts: 5 }");
        var journey = Assert.Single(result.Accounts.Journeys);
        Assert.Equal("POST /{_locale}/sign-in", journey.Address);
        Assert.Equal("shown", journey.Steps.Single(s => s.Name == "throttled").State);
        Assert.DoesNotContain(result.Findings, f => f.CheckId == "sessions/no-throttle");
    }

    /// <summary>The generated handler of the address throws: the firewall answers before it is reached.</summary>
    [Fact]
    public void The_handler_of_an_address_that_a_firewall_answers_is_no_journey_of_its_own()
    {
        var result = Auditor.Run(("config/packages/security.yaml", "security:\n  firewalls:\n    main:\n      logout: { path: app_sign_out }\n"),
            ("src/Controller/AccountController.php", Controller.Replace("/{_locale}/sign-in', name: 'app_sign_in'", "/sign-out', name: 'app_sign_out'", StringComparison.Ordinal).Replace("signIn(): Response", "logout(): never", StringComparison.Ordinal).Replace("return new Response('')", "throw new \\LogicException('answered by the firewall')", StringComparison.Ordinal)));
        Assert.Equal("any /sign-out", Assert.Single(result.Accounts.Journeys).Address);
        Assert.DoesNotContain(result.Findings, f => f.Check.Id == "sessions/sign-out-incomplete");
    }

    [Fact]
    public void Without_a_limit_the_settings_are_where_it_is_missing()
    {
        var result = Run("form_login:", "    check_path: /sign-in");
        Assert.Equal("absent", Assert.Single(result.Accounts.Journeys).Steps.Single(s => s.Name == "throttled").State);
        var finding = Assert.Single(result.Findings, f => f.CheckId == "sessions/no-throttle");
        Assert.Equal("config/packages/security.yaml", finding.Path);
        Assert.Equal(5, finding.Region.StartLine);
    }

    [Fact]
    public void Every_area_may_have_a_sign_in_of_its_own()
    {
        var result = Run("json_login: { check_path: /api/sign-in }", "logout: { path: /api/sign-out }", "login_throttling: ~");
        Assert.Equal(["POST /api/sign-in", "any /api/sign-out"], result.Accounts.Journeys.Select(j => j.Address));
    }

    [Theory]
    [InlineData("stateless: true")]
    [InlineData("form_login_path: /sign-in")]
    [InlineData("form_login: { check_path: [")]
    public void Other_settings_and_broken_ones_bring_nothing(string setting) => Assert.Empty(Run(setting).Accounts.Journeys);

    private static AuditResult Run(params string[] settings) => Auditor.Run(
        ("src/Controller/AccountController.php", Controller),
        ("config/packages/security.yaml", "security:\n    firewalls:\n        main:\n            lazy: true\n" + string.Concat(settings.Select(s => "            " + s + "\n"))));
}

using System.Security.Claims;
using System.Text.Encodings.Web;
using ClearLexicon.Services.People;
using ClearLexicon.Web.Hosting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace ClearLexicon.Web.Api;

/// <summary>Bearer tokens (RFC 6750) made under People and tokens; only their hash is stored.</summary>
internal sealed class TokenHandler(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory logger,
    UrlEncoder encoder,
    Accounts people
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public const string SchemeName = "Token";

    /// <summary>Claim that tells what a token may be used for; who is signed in by cookie has none and is not bound by it.</summary>
    public const string Scope = "scope";

    private const string Prefix = "Bearer ";

    protected override Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var header = Request.Headers.Authorization.ToString();
        if (!header.StartsWith(Prefix, StringComparison.OrdinalIgnoreCase))
            return Task.FromResult(AuthenticateResult.NoResult());
        if (people.ByToken(header[Prefix.Length..].Trim()) is not var (person, scopes))
            return Task.FromResult(AuthenticateResult.Fail("The token does not work."));
        var principal = Sessions.Principal(person, SchemeName, scopes.Select(s => new Claim(Scope, s)));
        return Task.FromResult(AuthenticateResult.Success(new AuthenticationTicket(principal, SchemeName)));
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.StatusCode = 401;
        Response.Headers.WWWAuthenticate = "Bearer";
        return Results.Problem("Send a bearer token from People and tokens.", statusCode: 401).ExecuteAsync(Context);
    }

    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) =>
        Results.Problem("Neither the roles of the token’s person nor its scopes reach here.", statusCode: 403).ExecuteAsync(Context);
}

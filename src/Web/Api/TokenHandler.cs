using System.Security.Claims;
using System.Text.Encodings.Web;
using ClearLexicon.Services;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace ClearLexicon.Web.Api;

/// <summary>Bearer tokens (RFC 6750) made under People and tokens; only their hash is stored.</summary>
internal sealed class TokenHandler(IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory logger, UrlEncoder encoder, People people)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    public const string SchemeName = "Token";

    private const string Prefix = "Bearer ";

    protected override Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var header = Request.Headers.Authorization.ToString();
        if (!header.StartsWith(Prefix, StringComparison.OrdinalIgnoreCase)) return Task.FromResult(AuthenticateResult.NoResult());
        if (people.ByToken(header[Prefix.Length..].Trim()) is not { } person) return Task.FromResult(AuthenticateResult.Fail("The token is not known."));
        var identity = new ClaimsIdentity([new(ClaimTypes.Name, person.Name), new(ClaimTypes.Role, person.Role)], SchemeName);
        return Task.FromResult(AuthenticateResult.Success(new AuthenticationTicket(new ClaimsPrincipal(identity), SchemeName)));
    }

    protected override Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        Response.Headers.WWWAuthenticate = "Bearer";
        return Results.Problem("Send a bearer token from People and tokens.", statusCode: 401).ExecuteAsync(Context);
    }
}

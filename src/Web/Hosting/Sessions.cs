using System.Security.Claims;
using ClearLexicon.Services;
using ClearLexicon.Services.People;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace ClearLexicon.Web.Hosting;

/// <summary>Who is signed in: what the cookie carries, and that it ends at once when a person's rights or password change.</summary>
public static class Sessions
{
    private const string Stamp = "stamp";
    private const string Session = "session";

    /// <summary>How long a session lasts without being used.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromHours(12);

    /// <summary>The person as requests know them.</summary>
    /// <param name="person">The person.</param>
    /// <param name="scheme">How they were known: by cookie or token.</param>
    /// <param name="more">Further claims.</param>
    public static ClaimsPrincipal Principal(Person person, string scheme, IEnumerable<Claim>? more = null) =>
        new(
            new ClaimsIdentity(
                [
                    new(ClaimTypes.Name, person.Name),
                    // By this a page knows whose it is, so that one that is open goes on after its person has signed in again.
                    new(ClaimTypes.NameIdentifier, person.Name),
                    new(Stamp, person.Stamp),
                    .. person.Roles.Select(r => new Claim(ClaimTypes.Role, r)),
                    .. more ?? [],
                ],
                scheme
            )
        );

    /// <summary>What a person may see.</summary>
    public static Rights Rights(this ClaimsPrincipal person) => new([.. person.FindAll(ClaimTypes.Role).Select(c => c.Value)]);

    /// <summary>Begins a session.</summary>
    public static Task BeginAsync(HttpContext context, Person person) =>
        context.SignInAsync(
            CookieAuthenticationDefaults.AuthenticationScheme,
            Principal(
                person,
                CookieAuthenticationDefaults.AuthenticationScheme,
                [new(Session, Convert.ToHexStringLower(System.Security.Cryptography.RandomNumberGenerator.GetBytes(16)))]
            )
        );

    /// <summary>Ends the session, also for a copy of its cookie.</summary>
    public static Task EndAsync(HttpContext context)
    {
        if (context.User.FindFirstValue(Session) is { } session)
            context.RequestServices.GetRequiredService<Accounts>().EndSession(session, Longest);
        return context.SignOutAsync();
    }

    /// <summary>Looks at each request whether the session is still good.</summary>
    public static async Task ValidateAsync(CookieValidatePrincipalContext context)
    {
        var people = context.HttpContext.RequestServices.GetRequiredService<Accounts>();
        var name = context.Principal?.FindFirstValue(ClaimTypes.Name);
        var session = context.Principal?.FindFirstValue(Session);
        if (
            name is not null
            && session is not null
            && people.Find(name) is { } person
            && person.Stamp == context.Principal!.FindFirstValue(Stamp)
            && !people.HasEnded(session)
        )
        {
            context.HttpContext.Items[nameof(Person)] = person;
            return;
        }
        context.RejectPrincipal();
        await context.HttpContext.SignOutAsync(CookieAuthenticationDefaults.AuthenticationScheme);
    }

    /// <summary>Who signed in with a one-time password can go nowhere before it is replaced.</summary>
    public static void UsePasswordFirst(this IApplicationBuilder app) =>
        app.Use(
            async (context, next) =>
            {
                if (
                    context.Items[nameof(Person)] is Person { OneTimeUntil: not null }
                    && !context.Request.Path.StartsWithSegments("/Person")
                    && !context.Request.Path.StartsWithSegments("/SignIn")
                )
                {
                    context.Response.Redirect("/Person");
                    return;
                }
                await next();
            }
        );
}

using System.IO.Compression;
using ClearLexicon.Services.People;
using Microsoft.AspNetCore.ResponseCompression;

namespace ClearLexicon.Web.Hosting;

/// <summary>Headers that every answer carries, and the way to the first administrator.</summary>
public static class Security
{
    /// <summary>Nothing inline, nothing from elsewhere; pictures may be data because Bootstrap draws its arrows so.</summary>
    public const string ContentSecurityPolicy =
        "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
        + "form-action 'self'; frame-ancestors 'none'";

    /// <summary>
    /// Answers are compressed, over HTTP only: over HTTPS, where the length of an answer could tell what stands in it beside what was
    /// asked, that is for whoever encrypts to decide.
    /// </summary>
    public static void AddCompression(this IServiceCollection services)
    {
        services.AddResponseCompression();
        services.Configure<BrotliCompressionProviderOptions>(o => o.Level = CompressionLevel.Fastest);
        services.Configure<GzipCompressionProviderOptions>(o => o.Level = CompressionLevel.Fastest);
    }

    /// <summary>Adds the headers.</summary>
    public static void UseSecurityHeaders(this IApplicationBuilder app) =>
        app.Use(
            async (context, next) =>
            {
                var headers = context.Response.Headers;
                headers.ContentSecurityPolicy = ContentSecurityPolicy;
                headers.XContentTypeOptions = "nosniff";
                headers["Referrer-Policy"] = "same-origin";
                headers["Cross-Origin-Opener-Policy"] = "same-origin";
                headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=(), payment=(), usb=(), interest-cohort=()";
                // Only over HTTPS, where the browser heeds it.
                if (context.Request.IsHttps)
                    headers.StrictTransportSecurity = "max-age=31536000; includeSubDomains";
                // Page pictures too: a browser that keeps one shows it to the next who signs in there, whatever Vary says.
                if (
                    !context.Request.Path.StartsWithSegments("/lib")
                    && !context.Request.Path.StartsWithSegments("/css")
                    && !context.Request.Path.StartsWithSegments("/js")
                )
                    headers.CacheControl = "no-store";
                await next();
            }
        );

    /// <summary>While nobody has an account, every address leads to the first administrator's form.</summary>
    public static void UseFirstStart(this IApplicationBuilder app) =>
        app.Use(
            async (context, next) =>
            {
                if (
                    context.User.Identity?.IsAuthenticated != true
                    && !context.Request.Path.StartsWithSegments("/FirstAdministrator")
                    && context.RequestServices.GetRequiredService<Accounts>().NobodyYet
                )
                {
                    context.Response.Redirect("/FirstAdministrator");
                    return;
                }
                await next();
            }
        );
}

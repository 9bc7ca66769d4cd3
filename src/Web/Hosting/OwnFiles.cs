using System.Security.Cryptography;
using System.Text;

namespace ClearLexicon.Web.Hosting;

/// <summary>
/// Styles, scripts and fonts under an address that names their version, so that a browser that has one never asks again. What one file
/// takes from another, as scripts and fonts do, is under the same address by itself.
/// </summary>
public static class OwnFiles
{
    private const string Prefix = "/v/";

    private static string? _version;

    /// <summary>The address before each file.</summary>
    public static string Before(IWebHostEnvironment environment) => Prefix + (_version ??= VersionOf(environment.WebRootPath));

    /// <summary>Answers them.</summary>
    public static void UseOwnFiles(this WebApplication app)
    {
        var before = Before(app.Environment);
        app.Use(
            async (context, next) =>
            {
                // Of an earlier version it is the file of today, which may be another one the next time.
                if (
                    context.Request.Path.Value is { } path
                    && path.StartsWith(Prefix, StringComparison.Ordinal)
                    && path.IndexOf('/', Prefix.Length) is > 0 and var end
                )
                {
                    context.Items[Prefix] = path.AsSpan(0, end).SequenceEqual(before);
                    context.Request.Path = path[end..];
                }
                // What a browser asks for where nothing names a sign, as beside a file.
                else if (context.Request.Path == "/favicon.ico")
                    context.Request.Path = "/favicon.svg";
                await next();
            }
        );
    }

    /// <summary>How they are kept by a browser.</summary>
    public static StaticFileOptions Options { get; } =
        new()
        {
            OnPrepareResponse = static file =>
                file.Context.Response.Headers.CacheControl = file.Context.Items[Prefix] is true
                    ? "public, max-age=31536000, immutable"
                    : "no-cache",
        };

    private static string VersionOf(string folder)
    {
        var files = new StringBuilder();
        foreach (var file in new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories).OrderBy(f => f.FullName))
            files.Append(file.FullName[folder.Length..]).Append(file.Length).Append(file.LastWriteTimeUtc.Ticks);
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(files.ToString())))[..12];
    }
}

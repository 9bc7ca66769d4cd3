using ClearLexicon.Services.Work;
using ClearLexicon.Storage;
using Microsoft.AspNetCore.Diagnostics;

namespace ClearLexicon.Web.Hosting;

/// <summary>The program cannot start; what stands in the way, in one line.</summary>
/// <param name="message">One sentence.</param>
public sealed class StartException(string message) : Exception(message)
{
    /// <summary>A failure at start in words; null when it is one of the program itself.</summary>
    public static string? InWords(Exception e, StartOptions start) =>
        e switch
        {
            StartException => e.Message,
            UnauthorizedAccessException
            or Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 8 or 14 }
            or IOException { InnerException: null }
            and not FileNotFoundException =>
                $"Clear Lexicon cannot write in {Path.GetFullPath(start.Data)}: give it the right to, make room there, or name "
                    + "another folder with --data.",
            Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: 11 or 26 } =>
                $"The database in {Path.GetFullPath(start.Data)} is damaged or no database; restore it from a copy.",
            _ => null,
        };
}

/// <summary>
/// What is answered when something fails: a page for people, problem details (RFC 9457) for the API, never a text of a library.
/// </summary>
public static class Errors
{
    /// <summary>Answers failures, and answers without a body.</summary>
    public static void UseErrors(this IApplicationBuilder app)
    {
        app.UseWhen(
            c => !c.Request.Path.StartsWithSegments("/api"),
            pages =>
            {
                pages.UseExceptionHandler(
                    new ExceptionHandlerOptions
                    {
                        ExceptionHandlingPath = "/Error",
                        StatusCodeSelector = StatusOf,
                        SuppressDiagnosticsCallback = c => Failures.IsFromOutside(c.Exception) || c.Exception is BadHttpRequestException,
                    }
                );
                pages.UseStatusCodePagesWithReExecute("/Error");
            }
        );
        app.UseWhen(
            c => c.Request.Path.StartsWithSegments("/api"),
            api =>
            {
                api.UseExceptionHandler(
                    new ExceptionHandlerOptions
                    {
                        StatusCodeSelector = StatusOf,
                        SuppressDiagnosticsCallback = c => Failures.IsFromOutside(c.Exception) || c.Exception is BadHttpRequestException,
                    }
                );
                api.UseStatusCodePages();
            }
        );
    }

    private static int StatusOf(Exception e) =>
        e switch
        {
            BadHttpRequestException bad => bad.StatusCode,
            WriterBusyException => StatusCodes.Status503ServiceUnavailable,
            _ when Failures.IsFromOutside(e) => StatusCodes.Status507InsufficientStorage,
            _ => StatusCodes.Status500InternalServerError,
        };
}

using ClearLexicon.Storage;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Services.Work;

/// <summary>What went wrong, in words for people; the library's own words go to the log.</summary>
public static class Failures
{
    private const int SqliteFull = 13,
        SqliteIoError = 10,
        SqliteReadOnly = 8,
        SqliteBusy = 5,
        SqliteLocked = 6,
        SqliteCannotOpen = 14;

    /// <summary>One sentence, without paths or library texts.</summary>
    public static string InWords(Exception e) =>
        e switch
        {
            WriterBusyException => e.Message,
            SqliteException { SqliteErrorCode: SqliteFull or SqliteIoError } => DiskFull,
            SqliteException { SqliteErrorCode: SqliteReadOnly or SqliteCannotOpen } or UnauthorizedAccessException =>
                "the data folder cannot be written. Nothing was lost; give the program the right to write there.",
            SqliteException { SqliteErrorCode: SqliteBusy or SqliteLocked } =>
                "another program holds the database. Nothing was changed; try again.",
            InvalidDataException => e.Message,
            PlacedIOException => e.Message,
            IOException => DiskFull,
            TimeoutException => "it took too long.",
            OutOfMemoryException => "it needs more memory than there is.",
            _ => "something went wrong inside the program. Its log says what.",
        };

    /// <summary>Whether a failure comes from outside the program, so that it is no error to report.</summary>
    public static bool IsFromOutside(Exception e) =>
        e
            is WriterBusyException
                or IOException
                or UnauthorizedAccessException
                or SqliteException
                {
                    SqliteErrorCode: SqliteFull or SqliteIoError or SqliteReadOnly or SqliteCannotOpen or SqliteBusy or SqliteLocked
                };

    private const string DiskFull = "the disk is full, or cannot be written to. What was done before stays; make room and continue.";
}

/// <summary>A failure of the disk that says which document it met, in our words.</summary>
/// <param name="message">One sentence.</param>
/// <param name="inner">What the disk said.</param>
public sealed class PlacedIOException(string message, Exception inner) : IOException(message, inner);

/// <summary>What was asked for cannot be done, with the sentence that the person reads. No error of the program.</summary>
/// <param name="message">One sentence.</param>
public sealed class RefusedException(string message) : Exception(message);

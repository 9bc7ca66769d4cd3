using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.Data.Sqlite;

namespace ClearLexicon.Storage;

/// <summary>
/// A moment as it is kept: UTC, to the minute, written <c>yyyy-MM-dd HH:mm</c> in the database, in packages and by the API. By itself it
/// has no day: which day it is depends on the zone of those who ask.
/// </summary>
[JsonConverter(typeof(InstantConverter))]
public readonly record struct Instant : IComparable<Instant>
{
    private const string Shape = "yyyy-MM-dd HH:mm";

    internal const int Length = 16;

    /// <summary>A moment; what is shorter than a minute is cut.</summary>
    public Instant(DateTimeOffset at) => Utc = new DateTimeOffset(at.UtcTicks - at.UtcTicks % TimeSpan.TicksPerMinute, TimeSpan.Zero);

    /// <summary>The moment, in UTC.</summary>
    public DateTimeOffset Utc { get; }

    /// <summary>Reads what <see cref="ToString"/> writes, or that with seconds behind it; null when it is none.</summary>
    public static Instant? Read(string? text) =>
        text is { Length: >= Length }
        && DateTimeOffset.TryParseExact(
            text[..Length].Replace('T', ' '),
            Shape,
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
            out var at
        )
            ? new Instant(at)
            : null;

    /// <inheritdoc/>
    public int CompareTo(Instant other) => Utc.CompareTo(other.Utc);

    /// <summary>Whether one is before another.</summary>
    public static bool operator <(Instant one, Instant other) => one.Utc < other.Utc;

    /// <summary>Whether one is behind another.</summary>
    public static bool operator >(Instant one, Instant other) => one.Utc > other.Utc;

    /// <summary>Whether one is not behind another.</summary>
    public static bool operator <=(Instant one, Instant other) => one.Utc <= other.Utc;

    /// <summary>Whether one is not before another.</summary>
    public static bool operator >=(Instant one, Instant other) => one.Utc >= other.Utc;

    /// <summary>As it is kept.</summary>
    public override string ToString() => Utc.ToString(Shape, CultureInfo.InvariantCulture);
}

/// <summary>Writes a moment as text.</summary>
public sealed class InstantConverter : JsonConverter<Instant>
{
    /// <inheritdoc/>
    /// <exception cref="NoMomentException">The text is not what <see cref="Write"/> writes.</exception>
    public override Instant Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        (reader.TokenType == JsonTokenType.String && reader.GetString() is { Length: Instant.Length } text ? Instant.Read(text) : null)
        ?? throw new NoMomentException();

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Instant value, JsonSerializerOptions options) =>
        writer.WriteStringValue(value.ToString());
}

/// <summary>A text in JSON stands where a moment should, and is none.</summary>
public sealed class NoMomentException() : JsonException("This is no moment.");

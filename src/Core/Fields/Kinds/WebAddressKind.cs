using System.Text.Json.Serialization;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields;

/// <summary>A field that holds the whole address of a page on the web (RFC 3986), e.g. <c>https://harbour.example/tariffs</c>.</summary>
/// <inheritdoc cref="Field"/>
public sealed record WebAddressField(string Key, string Label) : Field(Key, Label)
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override FieldKind Kind => FieldKind.WebAddress;
}

/// <summary>
/// Addresses that begin with http or https and name a host, in any script. They are kept as they were written, but for upper case in what
/// stands before the path. Names and passwords before the host are refused: what stands there is not where it leads.
/// </summary>
internal sealed class WebAddressKind : FieldKind
{
    private const int Longest = 2_000;
    private static readonly string[] Schemes = ["https://", "http://"];

    public override string Name => "WebAddress";

    public override string Label => "web address";

    public override Measure Measure => Measure.Words;

    public override bool IsWritten => true;

    public override Field New(string key, string label) => new WebAddressField(key, label);

    protected override FieldValue Read(string text)
    {
        if (Address(text) is null)
            return Unreadable(text);
        var host = text.IndexOf("//", StringComparison.Ordinal) + 2;
        var end = text.IndexOfAny(['/', '?', '#'], host) is >= 0 and var path ? path : text.Length;
        return new FieldValue { Text = text[..end].ToLowerInvariant() + text[end..], State = ValueState.Good };
    }

    public override string UnreadableCode => "not-a-web-address";

    public override string UnreadableIn(string text, string language) =>
        language switch
        {
            "de" => $"„{text}“ ist keine vollständige Webadresse; als https://harbour.example/tariffs schreiben.",
            "fr" => $"« {text} » n’est pas une adresse web complète ; écrivez-la comme https://harbour.example/tariffs.",
            _ => $"“{text}” is not a whole web address; write it as https://harbour.example/tariffs.",
        };

    // As RFC 3986 normalises: a port that is meant anyway, dots in the path, letters that may be written as percent or punycode.
    public override string Key(in FieldValue value) =>
        Address(value.Text) is { } address
            ? $"{address.Scheme}://{address.IdnHost}:{address.Port}{address.PathAndQuery}{address.Fragment}"
            : value.Text;

    public override bool Same(in FieldValue a, in FieldValue b) =>
        string.Equals(a.Text, b.Text, StringComparison.Ordinal) || Key(a) == Key(b);

    public override Uri? Link(string text) => Address(text);

    public override string XmlType => "xs:anyURI";

    public override string? Xml(string text) => Address(text) is null ? null : text;

    public override (string Base, string? Format) Csvw => ("anyURI", null);

    internal override void ToJsonSchema(Field field, JsonSchemaPart part)
    {
        part.Property["type"] = "string";
        // Not the format “uri”, which knows only Latin letters.
        if (!part.IsCleaned)
            part.Property["pattern"] = @"^\s*[Hh][Tt][Tt][Pp][Ss]?://[^\s/?#@\\]+(?:[/?#][^\s\\]*)?\s*$";
        part.Unsaid.Add($"{field.Label} names a host");
    }

    internal override string? Plausible(Field field, VocabularyIndex? terms) => "https://harbour.example/tariffs";

    private static Uri? Address(string text) =>
        text.Length <= Longest
        && !text.Any(c => c == '\\' || char.IsWhiteSpace(c) || char.IsControl(c))
        && Schemes.Any(s => text.StartsWith(s, StringComparison.OrdinalIgnoreCase))
        && Uri.TryCreate(text, UriKind.Absolute, out var address)
        && address is { UserInfo: "", HostNameType: UriHostNameType.Dns or UriHostNameType.IPv4 or UriHostNameType.IPv6 }
            ? address
            : null;
}

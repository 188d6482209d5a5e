namespace WarySentinel.Core.People.Forms;

/// <summary>What sort of answer a field takes.</summary>
public enum FieldKind
{
    /// <summary>A line of text.</summary>
    Text,
    /// <summary>Text of several lines.</summary>
    LongText,
    /// <summary>One of the field's options.</summary>
    OneOf,
    /// <summary>Several of the field's options.</summary>
    SeveralOf,
    /// <summary>Yes or no.</summary>
    YesNo,
    /// <summary>A number of at most fifteen digits.</summary>
    Number,
    /// <summary>A day (RFC 3339 full-date).</summary>
    Date,
    /// <summary>A country (ISO 3166-1 alpha-2).</summary>
    Country,
    /// <summary>A telephone number (E.164).</summary>
    Phone,
    /// <summary>Where post goes: street, postal code, town, country.</summary>
    Address,
    /// <summary>An address on the web (http or https).</summary>
    Url,
    /// <summary>A file, kept apart from the web.</summary>
    File,
    /// <summary>A yes that has to be said by oneself.</summary>
    Consent,
}

/// <summary>What the text of a field has to be, by its form and check digits alone.</summary>
public enum TextFormat
{
    /// <summary>Anything.</summary>
    Any,
    /// <summary>A number for value added tax.</summary>
    Vat,
    /// <summary>An account number (ISO 13616).</summary>
    Iban,
    /// <summary>A postal code.</summary>
    PostalCode,
    /// <summary>An e-mail address.</summary>
    Email,
}

/// <summary>What a member may do with a field on the page of their own profile.</summary>
public enum ProfileUse
{
    /// <summary>They don't see it.</summary>
    Hidden,
    /// <summary>They read it.</summary>
    Shown,
    /// <summary>They change it.</summary>
    Editable,
}

/// <summary>How these are written.</summary>
public static class FieldNames
{
    /// <summary>The names of kinds.</summary>
    public static readonly IReadOnlyList<string> Kinds =
        ["text", "long-text", "one-of", "several-of", "yes-no", "number", "date", "country", "phone", "address", "url", "file", "consent"];

    /// <summary>The names of formats.</summary>
    public static readonly IReadOnlyList<string> Formats = ["any", "vat", "iban", "postal-code", "email"];

    /// <summary>The names of what a profile does with a field.</summary>
    public static readonly IReadOnlyList<string> Profiles = ["hidden", "shown", "editable"];

    /// <summary>The place of a name in such a list; the first where nothing is written, null where it is none of them.</summary>
    internal static int? PlaceOf(IReadOnlyList<string> names, string? name)
    {
        var place = string.IsNullOrWhiteSpace(name) ? 0 : names.ToList().IndexOf(name);
        return place < 0 ? null : place;
    }
}

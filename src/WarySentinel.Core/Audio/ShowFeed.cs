using System.Globalization;
using System.Text;
using System.Xml;

namespace WarySentinel.Core.Audio;

/// <summary>An episode in a feed.</summary>
/// <param name="Name">What stands for it for ever.</param>
/// <param name="Title">What people call it.</param>
/// <param name="At">Since when it is out.</param>
/// <param name="Notes">What it is about.</param>
/// <param name="Page">Where it is read about; null for nowhere.</param>
/// <param name="Address">The address of its file; null for words alone.</param>
/// <param name="Type">The media type of that.</param>
/// <param name="Bytes">How large it is, in bytes.</param>
/// <param name="Length">How long it lasts.</param>
public sealed record FeedEpisode(
    string Name, string Title, DateTimeOffset At, string Notes, string? Page, string? Address, string Type, long Bytes, TimeSpan? Length);

/// <summary>A feed of one show for one listener: RSS 2.0 with the tags that audio players read beside it.</summary>
public sealed record ShowFeed
{
    private const string Atom = "http://www.w3.org/2005/Atom";
    private const string Players = "http://www.itunes.com/dtds/podcast-1.0.dtd";

    /// <summary>What people call the show.</summary>
    public required string Title { get; init; }

    /// <summary>Where it is read about.</summary>
    public required string Page { get; init; }

    /// <summary>The feed's own address.</summary>
    public required string Self { get; init; }

    /// <summary>What it is about.</summary>
    public required string Notes { get; init; }

    /// <summary>The language that is spoken.</summary>
    public required string Language { get; init; }

    /// <summary>Who makes it; null where nobody said.</summary>
    public string? By { get; init; }

    /// <summary>The address of its picture; null for none.</summary>
    public string? Picture { get; init; }

    /// <summary>The episodes, the newest first.</summary>
    public IReadOnlyList<FeedEpisode> Episodes { get; init; } = [];

    /// <summary>The feed as it is sent: UTF-8, the same for the same content.</summary>
    public byte[] Write()
    {
        using var bytes = new MemoryStream();
        var written = new XmlWriterSettings
        { Encoding = new UTF8Encoding(false), Indent = true, NewLineChars = "\n", NewLineHandling = NewLineHandling.Entitize };
        using (var xml = XmlWriter.Create(bytes, written))
        {
            xml.WriteStartElement("rss");
            xml.WriteAttributeString("version", "2.0");
            xml.WriteAttributeString("xmlns", "atom", null, Atom);
            xml.WriteAttributeString("xmlns", "itunes", null, Players);
            xml.WriteStartElement("channel");
            Channel(xml);
            foreach (var episode in Episodes)
            {
                Item(xml, episode);
            }
        }

        return bytes.ToArray();
    }

    private void Channel(XmlWriter xml)
    {
        Element(xml, "title", Title);
        Element(xml, "link", Page);
        xml.WriteStartElement("link", Atom);
        xml.WriteAttributeString("href", Self);
        xml.WriteAttributeString("rel", "self");
        xml.WriteAttributeString("type", "application/rss+xml");
        xml.WriteEndElement();
        Element(xml, "description", Notes.Length > 0 ? Notes : Title);
        Element(xml, "language", Language);
        if (By is { } by)
        {
            xml.WriteElementString("author", Players, Clean(by));
        }

        if (Picture is { } picture)
        {
            xml.WriteStartElement("image");
            Element(xml, "url", picture);
            Element(xml, "title", Title);
            Element(xml, "link", Page);
            xml.WriteEndElement();
            xml.WriteStartElement("image", Players);
            xml.WriteAttributeString("href", picture);
            xml.WriteEndElement();
        }

        // It is one listener's own: no directory lists it.
        xml.WriteElementString("block", Players, "yes");
    }

    private static void Item(XmlWriter xml, FeedEpisode episode)
    {
        xml.WriteStartElement("item");
        Element(xml, "title", episode.Title);
        if (episode.Page is { } page)
        {
            Element(xml, "link", page);
        }

        xml.WriteStartElement("guid");
        xml.WriteAttributeString("isPermaLink", "false");
        xml.WriteString(episode.Name);
        xml.WriteEndElement();
        // RFC 822 with four digits of the year, as RSS wants it.
        Element(xml, "pubDate", episode.At.ToUniversalTime().ToString("ddd, dd MMM yyyy HH:mm:ss 'GMT'", CultureInfo.InvariantCulture));
        if (episode.Notes.Length > 0)
        {
            Element(xml, "description", episode.Notes);
        }

        if (episode.Address is { } address)
        {
            xml.WriteStartElement("enclosure");
            xml.WriteAttributeString("url", address);
            xml.WriteAttributeString("length", episode.Bytes.ToString(CultureInfo.InvariantCulture));
            xml.WriteAttributeString("type", episode.Type);
            xml.WriteEndElement();
        }

        if (episode.Length is { } length)
        {
            xml.WriteElementString("duration", Players, ShowDraft.Say(length));
        }

        xml.WriteEndElement();
    }

    private static void Element(XmlWriter xml, string name, string text) => xml.WriteElementString(name, Clean(text));

    /// <summary>A text without what XML cannot hold (XML 1.0 §2.2), such as half a character.</summary>
    private static string Clean(string text)
    {
        var clean = new StringBuilder(text.Length);
        for (var i = 0; i < text.Length; i++)
        {
            if (i + 1 < text.Length && XmlConvert.IsXmlSurrogatePair(text[i + 1], text[i]))
            {
                clean.Append(text[i]).Append(text[++i]);
            }
            else if (XmlConvert.IsXmlChar(text[i]))
            {
                clean.Append(text[i]);
            }
        }

        return clean.ToString();
    }
}

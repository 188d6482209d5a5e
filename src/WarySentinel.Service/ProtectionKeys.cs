using System.Text;
using System.Xml;
using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Microsoft.AspNetCore.DataProtection.XmlEncryption;
using WarySentinel.Storage;

namespace WarySentinel.Service;

/// <summary>Seals the framework's data-protection keys under the service's secret, so that the database alone opens nothing.</summary>
public sealed class KeySealing(Secrets secrets) : IXmlEncryptor
{
    private static readonly XNamespace Protection = "http://schemas.asp.net/2015/03/dataProtection";

    /// <inheritdoc/>
    public EncryptedXmlInfo Encrypt(XElement plaintextElement) => new(Sealed(plaintextElement), typeof(KeyUnsealing));

    /// <summary>Whether a stored key is sealed under another secret than ours: it opens nothing here.</summary>
    public bool IsForeign(XElement key)
    {
        try
        {
            foreach (var part in key.Descendants("sealed"))
            {
                secrets.Unseal(Convert.FromBase64String(part.Value));
            }

            return false;
        }
        catch (Exception fault) when (fault is FormatException or System.Security.Cryptography.CryptographicException)
        {
            return true;
        }
    }

    /// <summary>A stored key with its secret part sealed; null where it is sealed already, or holds none.</summary>
    public XElement? Upgrade(XElement key)
    {
        // The framework marks what is to be sealed, and reads what stands in its place.
        var bare = key.DescendantsAndSelf().Where(e => (bool?)e.Attribute(Protection + "requiresEncryption") == true).ToList();
        if (bare.Count == 0)
        {
            return null;
        }

        foreach (var part in bare)
        {
            part.ReplaceWith(new XElement(
                Protection + "encryptedSecret", new XAttribute("decryptorType", typeof(KeyUnsealing).AssemblyQualifiedName!), Sealed(part)));
        }

        return key;
    }

    private XElement Sealed(XElement plain) =>
        new("sealed", Convert.ToBase64String(secrets.Seal(Encoding.UTF8.GetBytes(plain.ToString(SaveOptions.DisableFormatting)))));
}

/// <summary>Opens what <see cref="KeySealing"/> sealed; the framework makes it by its name.</summary>
public sealed class KeyUnsealing(IServiceProvider services) : IXmlDecryptor
{
    /// <inheritdoc/>
    public XElement Decrypt(XElement encryptedElement) =>
        XElement.Parse(Encoding.UTF8.GetString(services.GetRequiredService<Secrets>().Unseal(Convert.FromBase64String(encryptedElement.Value))));
}

/// <summary>Keeps the framework's data-protection keys in the store, where every machine finds them.</summary>
internal sealed class KeysInStore(Store store, KeySealing sealing, ILogger<KeysInStore> log) : IXmlRepository
{
    /// <inheritdoc/>
    public IReadOnlyCollection<XElement> GetAllElements() => [.. store.ProtectionKeys().Select(k => Read(k.Name, k.Xml)).OfType<XElement>()];

    /// <inheritdoc/>
    public void StoreElement(XElement element, string friendlyName) => store.KeepProtectionKey(friendlyName, element.ToString());

    /// <summary>
    /// A key that cannot be read opens nothing; those that can go on working, and a fresh one is made. One that an earlier version kept unsealed is
    /// sealed now.
    /// </summary>
    private XElement? Read(string name, string xml)
    {
        XElement key;
        try
        {
            key = XElement.Parse(xml);
        }
        catch (XmlException)
        {
            return null;
        }

        if (sealing.Upgrade(new XElement(key)) is { } better)
        {
            store.KeepProtectionKey(name, better.ToString());
            return better;
        }

        if (sealing.IsForeign(key))
        {
            log.LogWarning("The protection key {Name} was sealed under another secret; what it protected cannot be opened any more", name);
            return null;
        }

        return key;
    }
}
